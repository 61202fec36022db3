import { memo, useState } from "react";
import { navigate } from "wouter/use-browser-location";
import type { KeptRamp } from "../../api/types";
import { useCommands, usePalette, useShown } from "../../bench/context";
import { useScreen } from "../../shell/store";
import { Button, TextButton } from "../../ui/button";
import { NameField } from "../../ui/name-field";
import { ActionPanel } from "../../ui/sentence";
import { Others, RampChip, TakePanel } from "./others";
import { sameness } from "./store";
import { type RampWork, sameRamp, takeSelection } from "./use-ramp";

/** Name, tags, place and removal of the kept ramp that is worked on. */
function KeptPanel({ kept, work }: { kept: KeptRamp; work: RampWork }) {
  const palette = usePalette();
  const { operate } = useCommands();
  const place = palette.ramps.findIndex((entry) => entry.id === kept.id);
  const [tags, setTags] = useState(kept.tags.join(", "));
  const retag = () => {
    const wanted = tags
      .split(",")
      .map((tag) => tag.trim())
      .filter(Boolean);
    if (wanted.join() !== kept.tags.join())
      void operate({ kind: "rename_ramp", id: kept.id, name: kept.name, tags: wanted });
  };
  return (
    <div className="grid gap-2">
      <NameField
        label="Name of the ramp"
        value={kept.name}
        className="font-semibold"
        onRename={(name) => void operate({ kind: "rename_ramp", id: kept.id, name, tags: null })}
      />
      <label className="text-small text-quiet">
        Tags
        <input
          className="ml-2 w-56 border-b border-line bg-transparent text-ink"
          value={tags}
          placeholder="glow, chart"
          onChange={(event) => setTags(event.target.value)}
          onBlur={retag}
          onKeyDown={(event) => {
            if (event.key === "Enter") event.currentTarget.blur();
            event.stopPropagation();
          }}
        />
      </label>
      <div className="-ml-1.5 flex flex-wrap">
        <TextButton
          disabled={place <= 0}
          onClick={() => void operate({ kind: "move_ramp", id: kept.id, to: place - 1 })}
        >
          Move left
        </TextButton>
        <TextButton
          disabled={place === palette.ramps.length - 1}
          onClick={() => void operate({ kind: "move_ramp", id: kept.id, to: place + 1 })}
        >
          Move right
        </TextButton>
        <TextButton
          onClick={() => {
            work.set({ kept: null });
            void operate({ kind: "remove_ramp", id: kept.id });
          }}
        >
          Remove
        </TextButton>
      </div>
    </div>
  );
}

/** The ramp that the address asks to take, once: then the address is that of the palette again. */
function asked() {
  const [palette, id] = new URLSearchParams(location.search).get("take")?.split("_") ?? [];
  if (!palette || !id) return null;
  navigate(location.pathname, { replace: true });
  return { palette, id };
}

/** The kept ramps in a row, and how the one that is worked on stands to what is kept. A new drawing of it changes nothing here. */
export const KeptRow = memo(function KeptRow({ work }: { work: RampWork }) {
  const palette = usePalette();
  const shown = useShown();
  const { operate } = useCommands();
  const selection = useScreen((screen) => screen.selection);
  const { state, recipe } = work;
  const selected = shown.filter((swatch) => selection.has(swatch.id)).map((swatch) => swatch.id);
  const kept = palette.ramps.find((entry) => entry.id === state.kept);
  const changed = kept !== undefined && sameness(kept.ramp) !== sameness(recipe);
  const keepAsNew = async () => {
    const known = new Set(palette.ramps.map((entry) => entry.id));
    const after = await operate({
      kind: "keep_ramp",
      ramp: recipe,
      name: "",
      tags: [],
      after: kept?.id ?? null,
    });
    const made = after?.ramps.find((entry) => !known.has(entry.id));
    if (made) work.take(made.ramp, made.id);
  };
  const keep = async () => {
    if (!kept) return keepAsNew();
    const after = await operate({ kind: "change_ramp", id: kept.id, ramp: recipe });
    const made = after?.ramps.find((entry) => entry.id === kept.id);
    if (made) work.take(made.ramp, made.id);
  };
  const isReady = recipe.stops.length >= 2;
  const [taking, setTaking] = useState(asked);
  if (taking)
    return (
      <div className="mb-3 border border-ink bg-panel p-4">
        <TakePanel taking={taking} work={work} onDone={() => setTaking(null)} />
      </div>
    );
  return (
    <div className="mb-1 flex min-h-8 flex-wrap items-center gap-x-2 border-b border-line pb-1.5 text-small">
      <ul aria-label="Kept ramps" className="m-0 flex min-w-0 list-none gap-x-1 overflow-x-auto p-0.5">
        {palette.ramps.map((entry) => (
          <li key={entry.id} data-ramp={entry.id}>
            <button
              type="button"
              aria-pressed={entry.id === state.kept}
              title={`${entry.name}${entry.tags.length ? ` · ${entry.tags.join(", ")}` : ""}`}
              className="flex h-7 max-w-44 items-center gap-1.5 rounded px-1.5 hover:bg-raised aria-pressed:font-semibold aria-pressed:outline-2 aria-pressed:outline-ink"
              onClick={() => work.take(entry.ramp, entry.id)}
            >
              <RampChip strip={entry.strip} className="h-4 w-10" />
              <span className="truncate">{entry.name}</span>
            </button>
          </li>
        ))}
      </ul>
      <ActionPanel
        label={palette.ramps.length ? "Others …" : "Begin with another ramp …"}
        className={palette.ramps.length ? "" : "-ml-3.5"}
      >
        {(close) => <Others work={work} close={close} />}
      </ActionPanel>
      {!state.follows && selected.length >= 2 && (
        <TextButton
          title="A ramp through the selected swatches, with the settings of this one"
          onClick={() => takeSelection(palette.id, selected)}
        >
          From the {selected.length} selected
        </TextButton>
      )}
      <span className="grow" />
      {isReady && (
        <>
          <span className="text-quiet" role="status">
            {kept ? (
              changed ? (
                <>
                  <b className="font-semibold text-ink">{kept.name}</b>, changed since
                </>
              ) : (
                <>
                  kept as <b className="font-semibold text-ink">{kept.name}</b>
                </>
              )
            ) : (
              "not kept"
            )}
          </span>
          {kept && changed && (
            <TextButton onClick={() => work.take(kept.ramp, kept.id)}>Back to the kept one</TextButton>
          )}
          {kept && (
            <ActionPanel label="Name …" key={kept.id}>
              {() => <KeptPanel kept={kept} work={work} />}
            </ActionPanel>
          )}
          {kept && <Button onClick={() => void keepAsNew()}>Keep as new</Button>}
          {(!kept || changed) && <Button onClick={() => void keep()}>Keep</Button>}
        </>
      )}
    </div>
  );
}, sameRamp);
