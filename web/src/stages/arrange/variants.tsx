import { useEffect, useState } from "react";
import type { Variant } from "../../api/types";
import { useCommands, useDrafted, useLinked, usePalette, usePreview } from "../../bench/context";
import { DraftBar } from "../../bench/draft-bar";
import { Patch } from "../../lens/patch";
import { Button, TextButton } from "../../ui/button";
import { NameField } from "../../ui/name-field";
import { Sentence } from "../../ui/sentence";
import { BeforeAndAfter } from "./before-after";

function Row({ variant, onLook, looked }: { variant: Variant; onLook: () => void; looked: boolean }) {
  const palette = usePalette();
  const { operate, discard } = useCommands();
  const isShown = variant.id === palette.variant;
  return (
    <li className="border-t border-line py-2.5">
      <div className="mb-1 flex items-center gap-2 text-small">
        <NameField
          label={`Name of the variant ${variant.name}`}
          value={variant.name}
          onRename={(name) => void operate({ kind: "rename_variant", id: variant.id, name })}
          className="field-sizing-content max-w-64 min-w-16 text-label font-semibold"
        />
        <span className="grow text-quiet">{isShown ? "shown" : looked ? "looked at" : ""}</span>
        {!isShown && (
          <>
            <Button onClick={looked ? discard : onLook}>{looked ? "Put back" : "Look"}</Button>
            <TextButton
              aria-label={`Remove the variant ${variant.name}`}
              onClick={() => void operate({ kind: "remove_variant", id: variant.id })}
            >
              Remove
            </TextButton>
          </>
        )}
      </div>
      <span className="flex h-9" role="img" aria-label={`Colors of ${variant.name}`}>
        {variant.hexes.slice(0, 1024).map((hex, place) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: the strip's own order is the identity here
          <Patch key={place} className="min-w-0 grow" color={hex} />
        ))}
      </span>
    </li>
  );
}

/** The same swatches in other colors, such as by day and by lamplight. */
export function VariantsView() {
  const palette = usePalette();
  const link = useLinked();
  const draft = useDrafted();
  const preview = usePreview();
  const { setDraft, discard, operate } = useCommands();
  const [name, setName] = useState("");
  const [first, setFirst] = useState("First");
  useEffect(() => discard, [discard]);
  const looked =
    draft?.kind === "step" && draft.operation.kind === "show_variant" ? draft.operation.id : null;
  const lookedAt = palette.variants.find((variant) => variant.id === looked);
  const shownName = palette.variants.find((variant) => variant.id === palette.variant)?.name ?? "now";
  const add = async () => {
    if (await operate({ kind: "add_variant", name, first_name: first })) setName("");
  };
  return (
    <>
      <Sentence label="What this view does">
        {lookedAt ? (
          <>
            Show the variant <strong>{lookedAt.name}</strong> instead of <strong>{shownName}</strong>.
          </>
        ) : (
          <>Keep the same swatches in several sets of colors, and go from one to the other.</>
        )}
      </Sentence>
      <DraftBar
        canKeep={Boolean(lookedAt && preview?.kind === "step" && preview.proposal.changes)}
        label={lookedAt ? `Show ${lookedAt.name}` : palette.variants.length ? "Show it" : null}
      >
        {palette.variants.length === 0
          ? "No variants yet"
          : `${palette.variants.length} variants; names, order and groups are the same in all`}
      </DraftBar>
      <div className={`grid min-h-0 grow gap-6 ${link ? "grid-cols-[minmax(0,4fr)_minmax(0,5fr)]" : ""}`}>
        <div className="min-h-0 overflow-y-auto pr-2">
          <form
            className="flex flex-wrap items-center gap-2 pb-3 text-small"
            onSubmit={(event) => {
              event.preventDefault();
              void add();
            }}
            onKeyDown={(event) => event.key !== "Escape" && event.stopPropagation()}
          >
            {palette.variants.length === 0 && (
              <label className="flex items-center gap-2">
                The colors of now are
                <input
                  aria-label="Name of the present colors"
                  className="h-7 w-24 border-b border-ink bg-transparent"
                  value={first}
                  onChange={(event) => setFirst(event.target.value)}
                />
              </label>
            )}
            <input
              aria-label="Name of the new variant"
              placeholder="By lamplight"
              className="h-7 min-w-28 grow border-b border-ink bg-transparent"
              value={name}
              onChange={(event) => setName(event.target.value)}
            />
            <Button type="submit" disabled={!name.trim()}>
              Add a variant
            </Button>
          </form>
          <ul className="m-0 list-none p-0" aria-label="Variants">
            {palette.variants.map((variant) => (
              <Row
                key={variant.id}
                variant={variant}
                looked={variant.id === looked}
                onLook={() => setDraft({ kind: "step", operation: { kind: "show_variant", id: variant.id } })}
              />
            ))}
          </ul>
          {palette.variants.length === 0 && (
            <p className="text-quiet">
              Name the variant to begin, such as night. It starts with the present colors; change them, and
              the ones of before stay in theirs. What you add or take out changes in all.
            </p>
          )}
        </div>
        {link && (
          <div className="flex min-h-0 flex-col">
            <BeforeAndAfter sides={lookedAt ? [shownName, lookedAt.name] : null} />
          </div>
        )}
      </div>
    </>
  );
}
