import { useRef, useState } from "react";
import { useCommands, useDrafted, useDraftProblem, useMenus, usePreview } from "../../bench/context";
import { Patch } from "../../lens/patch";
import { useScreen } from "../../shell/store";
import { Button } from "../../ui/button";
import { ActionPanel } from "../../ui/sentence";

/** Make a group of the selected swatches. */
export function GroupPanel() {
  const { operate } = useCommands();
  const selected = useScreen((screen) => screen.selected);
  const [name, setName] = useState("");
  const make = async (close: () => void) => {
    if (await operate({ kind: "make_group", ids: selected, name })) {
      setName("");
      close();
    }
  };
  return (
    <ActionPanel label="Group …" mark="group-selected" disabled={selected.length === 0}>
      {(close) => (
        <form
          onSubmit={(event) => {
            event.preventDefault();
            void make(close);
          }}
        >
          <label className="mb-1 block text-small text-quiet" htmlFor="group-name">
            Name of the group of {selected.length === 1 ? "this swatch" : `these ${selected.length} swatches`}
          </label>
          <div className="flex gap-2">
            <input
              id="group-name"
              value={name}
              placeholder="Wings"
              className="h-7 min-w-0 grow border-b border-ink bg-transparent"
              onChange={(event) => setName(event.target.value)}
              onKeyDown={(event) => event.key !== "Escape" && event.stopPropagation()}
            />
            <Button primary type="submit">
              Group
            </Button>
          </div>
          <p className="mt-2 text-small text-quiet">They gather at the place of the first of them.</p>
        </form>
      )}
    </ActionPanel>
  );
}

/** Merge the selected swatches into one, seen in the strip and the picture before it is done. */
export function MergePanel() {
  const menus = useMenus();
  const preview = usePreview();
  const draft = useDrafted();
  const problem = useDraftProblem();
  const { setDraft, discard, keep } = useCommands();
  const selected = useScreen((screen) => screen.selected);
  const [rule, setRule] = useState(menus.merge_rules[0]?.id ?? "most-used");
  const ids = useRef(selected);
  const tryOut = (next: string) => {
    setRule(next);
    setDraft({ kind: "step", operation: { kind: "merge_swatches", ids: ids.current, keep: next } });
  };
  const survivors = preview?.kind === "step" ? new Set(Object.values(preview.proposal.successors)) : null;
  const survivor =
    preview?.kind === "step" ? preview.proposal.swatches.find((swatch) => survivors?.has(swatch.id)) : null;
  return (
    <ActionPanel
      label="Merge …"
      mark="merge-selected"
      disabled={selected.length < 2 && !draft}
      onOpen={() => {
        ids.current = selected;
        tryOut(rule);
      }}
      onClose={discard}
    >
      {(close) => (
        <>
          <fieldset className="m-0 grid gap-1 border-0 p-0">
            <legend className="mb-1 text-small text-quiet">
              Merge {ids.current.length} into one, keeping
            </legend>
            {menus.merge_rules.map((choice) => (
              <label
                key={choice.id}
                className="grid cursor-pointer grid-cols-[20px_1fr] rounded px-1.5 py-1 hover:bg-ground"
              >
                <input
                  type="radio"
                  name="merge-rule"
                  className="mt-1 accent-ink"
                  checked={rule === choice.id}
                  onChange={() => tryOut(choice.id)}
                />
                <span>
                  <span className="block font-semibold">{choice.label}</span>
                  <span className="block text-small text-quiet">{choice.use}</span>
                </span>
              </label>
            ))}
          </fieldset>
          {problem && (
            <p role="alert" className="mt-2 text-small font-semibold">
              {problem}
            </p>
          )}
          <div className="mt-3 flex items-center gap-2">
            {survivor && <Patch className="size-7" color={survivor.hex} title={survivor.hex} />}
            <span className="min-w-0 grow truncate text-small">{survivor?.name}</span>
            <Button
              primary
              disabled={!survivor}
              onClick={async () => {
                const id = survivor?.id;
                if (await keep()) {
                  if (id) useScreen.getState().select([id]);
                  close();
                }
              }}
            >
              Merge
            </Button>
          </div>
        </>
      )}
    </ActionPanel>
  );
}
