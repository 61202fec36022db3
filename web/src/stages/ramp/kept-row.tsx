import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { fetchRampDocument, type KeptRamp } from "../../api/client";
import { ask } from "../../api/queries";
import { inWords } from "../../api/words";
import { useBench } from "../../bench/context";
import { useScreen } from "../../shell/store";
import { Button, TextButton } from "../../ui/button";
import { HexBand } from "../../ui/chips";
import { NameField } from "../../ui/name-field";
import { ActionPanel } from "../../ui/sentence";
import { sameness } from "./store";
import type { RampWork } from "./use-ramp";

/** A ramp as the strip it is. */
export function RampChip({ strip, className = "h-5 w-16" }: { strip: string; className?: string }) {
  return (
    <span className={`checkered flex shrink-0 overflow-hidden ${className}`} aria-hidden="true">
      <HexBand strip={strip} />
    </span>
  );
}

/** Name, tags, place and removal of the kept ramp that is worked on. */
function KeptPanel({ kept, work }: { kept: KeptRamp; work: RampWork }) {
  const { palette, operate } = useBench();
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

/** Ramps to begin with, and those that other palettes keep. */
function Others({ work, close }: { work: RampWork; close: () => void }) {
  const { palette, operate } = useBench();
  const say = useScreen((screen) => screen.say);
  const shelf = useQuery(ask.shelf());
  const others = (shelf.data?.ramps ?? []).filter((card) => card.palette !== palette.id);
  const [taking, setTaking] = useState<{ palette: string; id: string; name: string } | null>(null);
  const tied = useQuery({
    ...ask.rampDocument(taking?.palette ?? "", taking?.id ?? "", true),
    enabled: taking !== null,
  });
  const bring = async (along: boolean) => {
    if (!taking) return;
    try {
      const answer = await fetchRampDocument(taking.palette, taking.id, along);
      const changed = await operate({
        kind: "bring_in",
        document: answer.document,
        source: taking.name,
        how: "append",
        tolerance: 2,
      });
      const made = changed?.ramps.at(-1);
      if (made) work.take(made.ramp, made.id);
      close();
    } catch (error) {
      say(inWords(error), { kind: "wrong" });
    }
  };
  if (taking) {
    const along = tied.data?.swatches ?? [];
    return (
      <div>
        <p className="mb-2 font-semibold">Take “{taking.name}” into this palette</p>
        {tied.isPending && <p role="status">Looking at it …</p>}
        {tied.data && along.length === 0 && <p className="mb-2 text-small">Its stops are plain colors.</p>}
        {along.length > 0 && (
          <>
            <p className="mb-1.5 text-small text-quiet">Its stops follow {along.length} swatches:</p>
            <ul className="m-0 mb-2 flex list-none flex-wrap gap-1 p-0">
              {along.map((swatch) => (
                <li
                  key={swatch.id}
                  title={swatch.name}
                  className="size-6"
                  style={{ background: swatch.hex }}
                />
              ))}
            </ul>
          </>
        )}
        <div className="flex flex-wrap gap-2">
          <Button primary disabled={!tied.data} onClick={() => void bring(false)}>
            {along.length ? "As plain colors" : "Take it"}
          </Button>
          {along.length > 0 && (
            <Button onClick={() => void bring(true)}>With its {along.length} swatches</Button>
          )}
          <TextButton onClick={() => setTaking(null)}>Back</TextButton>
        </div>
      </div>
    );
  }
  const row = "grid w-full grid-cols-[72px_1fr] items-center gap-2.5 rounded p-1 text-left hover:bg-ground";
  return (
    <div>
      <p className="mb-1 text-small text-quiet">Begin with one of these</p>
      <ul aria-label="Starting ramps" className="m-0 grid list-none p-0">
        {work.menus.starting.map((entry) => (
          <li key={entry.id}>
            <button
              type="button"
              className={row}
              title={entry.use}
              onClick={() => {
                work.take(entry.ramp);
                close();
              }}
            >
              <RampChip strip={entry.strip} className="h-6 w-[72px]" />
              <span className="min-w-0">
                <span className="block truncate font-semibold">{entry.label}</span>
                <span className="block truncate text-small text-quiet">{entry.use}</span>
              </span>
            </button>
          </li>
        ))}
      </ul>
      {others.length > 0 && (
        <>
          <p className="mt-2 mb-1 border-t border-line pt-2 text-small text-quiet">Kept by other palettes</p>
          <ul aria-label="Ramps of the shelf" className="m-0 grid list-none p-0">
            {others.map((card) => (
              <li key={`${card.palette}-${card.id}`}>
                <button
                  type="button"
                  className={row}
                  onClick={() => setTaking({ palette: card.palette, id: card.id, name: card.name })}
                >
                  <RampChip strip={card.strip} className="h-6 w-[72px]" />
                  <span className="min-w-0">
                    <span className="block truncate font-semibold">{card.name}</span>
                    <span className="block truncate text-small text-quiet">{card.palette_name}</span>
                  </span>
                </button>
              </li>
            ))}
          </ul>
        </>
      )}
    </div>
  );
}

/** The kept ramps in a row, and how the one that is worked on stands to what is kept. */
export function KeptRow({ work }: { work: RampWork }) {
  const { palette, operate } = useBench();
  const { state, recipe } = work;
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
  return (
    <div className="mb-1 flex min-h-8 items-center gap-x-2 border-b border-line pb-1.5 text-small">
      <ul aria-label="Kept ramps" className="m-0 flex min-w-0 list-none gap-x-1 overflow-x-auto p-0.5">
        {palette.ramps.map((entry) => (
          <li key={entry.id}>
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
}
