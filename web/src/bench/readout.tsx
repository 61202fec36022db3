import { Lock, LockOpen, Pin, PinOff } from "lucide-react";
import type { Swatch } from "../api/types";
import { currentOf, useScreenParts } from "../shell/store";
import { TextButton } from "../ui/button";
import { NameField } from "../ui/name-field";
import { useTyped } from "../ui/use-typed";
import { useCommands, usePalette, useShown } from "./context";
import { Editor } from "./editor";
import { renameSelected } from "./focus";

function percent(share: number) {
  const value = share * 100;
  return value > 0 && value < 0.1 ? "under 0.1 %" : `${value.toFixed(1)} %`;
}

/** A note and tags, written where they stand. */
function Words({ swatch }: { swatch: Swatch }) {
  const { operate } = useCommands();
  const note = useTyped(swatch.note);
  const tags = useTyped(swatch.tags.join(", "));
  const field = "w-full border-b border-line bg-transparent outline-offset-1 focus:border-ink";
  return (
    <div className="mt-1 grid grid-cols-[56px_1fr] items-baseline gap-y-0.5 border-t border-line pt-1.5 text-small">
      <label className="text-quiet" htmlFor="swatch-tags">
        Tags
      </label>
      <input
        id="swatch-tags"
        className={field}
        value={tags.text}
        placeholder="rim, warm"
        onChange={(event) => tags.type(event.target.value)}
        onKeyDown={(event) => {
          if (event.key === "Enter") event.currentTarget.blur();
          event.stopPropagation();
        }}
        onBlur={() => {
          const wanted = tags.text.split(",").map((tag) => tag.trim());
          if (wanted.filter(Boolean).join() !== swatch.tags.join())
            void operate({ kind: "annotate_swatches", ids: [swatch.id], tags: wanted });
        }}
      />
      <label className="text-quiet" htmlFor="swatch-note">
        Note
      </label>
      <textarea
        id="swatch-note"
        rows={1}
        className={`${field} field-sizing-content max-h-24 resize-none`}
        value={note.text}
        placeholder="what it is for"
        onChange={(event) => note.type(event.target.value)}
        onKeyDown={(event) => event.stopPropagation()}
        onBlur={() =>
          note.text.trim() !== swatch.note &&
          void operate({ kind: "annotate_swatches", ids: [swatch.id], note: note.text.slice(0, 2000) })
        }
      />
    </div>
  );
}

/** All about the selected swatch, always open. */
export function Readout() {
  const shown = useShown();
  const palette = usePalette();
  const { operate } = useCommands();
  const { selected, selection, anchor, select } = useScreenParts("selected", "selection", "anchor", "select");
  const currentId = currentOf({ anchor, selection, selected });
  const place = shown.findIndex((swatch) => swatch.id === currentId);
  const swatch = shown[place];
  const frame = "h-full w-[306px] shrink-0 overflow-y-auto border-l border-line bg-panel px-[18px] py-1.5";
  if (!swatch) {
    return (
      <aside aria-label="Readout" className={frame}>
        <h2 className="text-label font-semibold">No swatch selected</h2>
        <p className="mt-2 text-small text-quiet">
          Click a swatch in the strip to see and change its color here.
        </p>
      </aside>
    );
  }
  const next = () => {
    const following = shown[(place + 1) % shown.length];
    if (following) {
      select([following.id]);
      renameSelected();
    }
  };
  const details = [`${swatch.slot ?? place}`];
  if (swatch.locked) details.push("locked");
  if (swatch.coverage !== null) details.push(percent(swatch.coverage));
  return (
    <aside aria-label="Readout" className={frame}>
      <div className="mb-1 flex items-center gap-2">
        <h2 className="flex min-w-0 grow">
          <NameField
            key={swatch.id}
            mark="swatch-name"
            label={`Name of swatch ${place}`}
            value={swatch.name}
            onRename={(name) => void operate({ kind: "rename_swatch", id: swatch.id, name })}
            onNext={next}
            className="w-full text-label font-semibold"
          />
        </h2>
        <span className="shrink-0 text-small text-quiet">{details.join(" · ")}</span>
        {palette.slots !== null && (
          <button
            type="button"
            aria-pressed={swatch.pinned}
            aria-label={swatch.pinned ? "Unpin" : "Pin"}
            title={
              swatch.pinned ? "Pinned to its place. Click to let it move" : "Pin it to its numbered place"
            }
            className="grid size-6 shrink-0 place-items-center rounded hover:bg-raised"
            onClick={() => void operate({ kind: "pin_swatches", ids: [swatch.id], pinned: !swatch.pinned })}
          >
            {swatch.pinned ? <Pin size={15} strokeWidth={2.4} /> : <PinOff size={15} />}
          </button>
        )}
        <button
          type="button"
          aria-pressed={swatch.locked}
          aria-label={swatch.locked ? "Unlock" : "Lock"}
          title={
            swatch.locked
              ? "Locked: stays through the next reduction. Click to unlock (L)"
              : "Lock, to keep this color in the next reduction (L)"
          }
          className="grid size-6 shrink-0 place-items-center rounded hover:bg-raised"
          onClick={() => void operate({ kind: "lock_swatches", ids: [swatch.id], locked: !swatch.locked })}
        >
          {swatch.locked ? <Lock size={15} strokeWidth={2.4} /> : <LockOpen size={15} />}
        </button>
      </div>
      <Editor key={swatch.id} swatch={swatch} />
      <Words key={`words-${swatch.id}`} swatch={swatch} />
      <div className="mt-1 border-t border-line pt-1">
        <div className="-ml-1.5 flex items-center">
          <TextButton onClick={() => void operate({ kind: "duplicate_swatches", ids: selected })}>
            Duplicate
          </TextButton>
          <TextButton onClick={() => void operate({ kind: "delete_swatches", ids: selected })}>
            Delete
          </TextButton>
          {selected.length > 1 && (
            <span className="ml-auto text-small text-quiet">all {selected.length} selected</span>
          )}
        </div>
      </div>
    </aside>
  );
}
