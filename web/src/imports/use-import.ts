import { useQueries } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { ask } from "../api/queries";
import type { Import, Reading } from "../api/types";

export type How = "new" | "append" | "union" | "replace";

/** What is decided about one file. */
export interface Choice {
  reading: number;
  how: How;
  target: string | null;
  tenths: number;
  colors: number;
  name: string | null;
  /** What the columns of a table mean, where the artist has said so. */
  columns: string[] | null;
  /** Swatches and ramps that are left out; null until the artist says so: then those in doubt are. */
  left: ReadonlySet<string> | null;
  done: { palette: string; text: string } | null;
}

export interface Item {
  file: File;
  key: string;
  found: Import | null;
  problem: string | null;
  choice: Choice;
  reading: Reading | null;
  left: ReadonlySet<string>;
}

/** The finds of a reading that may be no colors. */
export function inDoubt(reading: Reading | null): Set<string> {
  return new Set(
    (reading?.swatches ?? []).filter((_, place) => reading?.doubts[place]).map((swatch) => swatch.id),
  );
}

/** The files of an import: each looked into, each with its own choices. */
export function useImport(files: File[], target: string | null) {
  const first: Choice = {
    reading: 0,
    how: target ? "append" : "new",
    target,
    tenths: 20,
    colors: 16,
    name: null,
    columns: null,
    left: null,
    done: null,
  };
  const [choices, setChoices] = useState<Record<number, Choice>>({});
  const last = useRef<Record<number, Import>>({});
  const looked = useQueries({
    queries: files.map((file, place) => ({
      ...ask.found(file, choices[place]?.colors ?? first.colors, choices[place]?.columns ?? null),
    })),
  });
  const items: Item[] = files.map((file, place) => {
    const choice = choices[place] ?? first;
    // While a picture is reduced to another number, or a table read by other columns, what was found last stays on the screen.
    const found = looked[place]?.data ?? (looked[place]?.error ? null : (last.current[place] ?? null));
    if (found) last.current[place] = found;
    const reading = found?.readings[choice.reading] ?? found?.readings[0] ?? null;
    return {
      file,
      key: `${place}-${file.name}`,
      found,
      problem: looked[place]?.error?.message ?? null,
      choice,
      reading,
      left: choice.left ?? inDoubt(reading),
    };
  });
  const choose = (place: number, part: Partial<Choice>) =>
    setChoices((before) => ({ ...before, [place]: { ...first, ...before[place], ...part } }));
  return { items, choose };
}

interface FoundDocument {
  swatches: { id: string; color: unknown }[];
  ramps?: { id: string; plan: { stops: { swatch?: string | null; color?: unknown }[] } }[];
}

/**
 * The found palette without the swatches and ramps that are left out, as an operation takes it. A stop whose swatch
 * stays behind takes that swatch's color along.
 */
export function takenDocument(reading: Reading, left: ReadonlySet<string>): Record<string, unknown> {
  const { swatches, ramps = [] } = reading.document as unknown as FoundDocument;
  const colors = new Map(swatches.map((swatch) => [swatch.id, swatch.color]));
  const taken = ramps
    .filter((ramp) => !left.has(ramp.id))
    .map((ramp) => ({
      ...ramp,
      plan: {
        ...ramp.plan,
        stops: ramp.plan.stops.map((stop) =>
          stop.swatch != null && left.has(stop.swatch)
            ? { ...stop, swatch: null, color: colors.get(stop.swatch) }
            : stop,
        ),
      },
    }));
  return {
    ...reading.document,
    swatches: swatches.filter((swatch) => !left.has(swatch.id)),
    ramps: taken,
  };
}
