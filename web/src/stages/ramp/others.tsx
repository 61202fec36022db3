import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { ask } from "../../api/queries";
import { inWords } from "../../api/words";
import { useCommands, usePalette } from "../../bench/context";
import { useShelfCards } from "../../cards/shelf-cards";
import { HexBand } from "../../lens/chips";
import { Patch } from "../../lens/patch";
import { useScreen } from "../../shell/store";
import { Button, TextButton } from "../../ui/button";
import type { RampWork } from "./use-ramp";

/** A ramp as the strip it is. */
export function RampChip({ strip, className = "h-5 w-16" }: { strip: string; className?: string }) {
  return (
    <span className={`checkered flex shrink-0 overflow-hidden ${className}`} aria-hidden="true">
      <HexBand strip={strip} />
    </span>
  );
}

export interface Taking {
  palette: string;
  id: string;
}

/** A ramp that another palette keeps, and how it comes into this one: with the swatches it follows, or with plain colors. */
export function TakePanel({ taking, work, onDone }: { taking: Taking; work: RampWork; onDone: () => void }) {
  const palette = usePalette();
  const { operate } = useCommands();
  const say = useScreen((screen) => screen.say);
  const queries = useQueryClient();
  const kept = useQuery(ask.rampsOf(taking.palette));
  const card = kept.data?.find((entry) => entry.id === taking.id);
  const tied = useQuery(ask.rampDocument(taking.palette, taking.id, true));
  const along = tied.data?.swatches ?? [];
  const bring = async (withSwatches: boolean) => {
    try {
      const answer = await queries.fetchQuery({
        ...ask.rampDocument(taking.palette, taking.id, withSwatches),
        staleTime: 0,
      });
      const known = new Set(palette.ramps.map((entry) => entry.id));
      const changed = await operate({
        kind: "bring_in",
        document: answer.document,
        source: card?.name ?? "a ramp",
        how: "append",
        tolerance: 2,
        join_groups: false,
      });
      const made = changed?.ramps.find((entry) => !known.has(entry.id));
      if (made) work.take(made.ramp, made.id);
      onDone();
    } catch (error) {
      say(inWords(error), { kind: "wrong" });
    }
  };
  return (
    <section aria-label="Take a ramp" className="grid gap-2">
      <p className="font-semibold">Take “{card?.name ?? "the ramp"}” into this palette</p>
      {card && <RampChip strip={card.strip} className="h-8 w-full max-w-md" />}
      {tied.isPending && <p role="status">Looking at it …</p>}
      {tied.error && <p role="alert">{tied.error.message}</p>}
      {tied.data && along.length === 0 && <p className="text-small">Its stops are plain colors.</p>}
      {along.length > 0 && (
        <>
          <p className="text-small text-quiet">Its stops follow {along.length} swatches:</p>
          <ul className="m-0 flex list-none flex-wrap gap-1 p-0">
            {along.map((swatch) => (
              <li key={swatch.id} title={swatch.name}>
                <Patch className="block size-6" color={swatch.hex} />
              </li>
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
        <TextButton onClick={onDone}>Not now</TextButton>
      </div>
    </section>
  );
}

/** Ramps to begin with, and those that other palettes keep. */
export function Others({ work, close }: { work: RampWork; close: () => void }) {
  const palette = usePalette();
  const { cards, field } = useShelfCards("ramps");
  const others = (cards ?? []).filter((card) => card.palette !== palette.id);
  const [taking, setTaking] = useState<Taking | null>(null);
  if (taking) return <TakePanel taking={taking} work={work} onDone={close} />;
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
      {(others.length > 0 || field) && (
        <>
          <p className="mt-2 mb-1 border-t border-line pt-2 text-small text-quiet">Kept by other palettes</p>
          {field}
          <ul aria-label="Ramps of the shelf" className="m-0 grid list-none p-0">
            {others.map((card) => (
              <li key={`${card.palette}-${card.id}`}>
                <button
                  type="button"
                  className={row}
                  onClick={() => setTaking({ palette: card.palette, id: card.id })}
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
