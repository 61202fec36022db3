import type { QueryClient } from "@tanstack/react-query";
import { create } from "zustand";
import { operateOnce } from "../api/commands";
import { ask, KEYS } from "../api/queries";
import type { Palette, Swatch } from "../api/types";

/** Swatches that were copied: of which palette, at which step of it. No step is ever removed, so they stay what they were. */
export interface Clip {
  palette: string;
  name: string;
  step: number;
  ids: string[];
}

/** What the clipboard calls it; whatever else reads the clipboard takes the text beside it. */
export const CLIP_TYPE = "application/x-huvren-swatches+json";

/** What was copied last in this window: menus may not look into the clipboard. */
export const useClip = create<{ clip: Clip | null; set: (clip: Clip | null) => void }>((set) => ({
  clip: null,
  set: (clip) => set({ clip }),
}));

/** A line for each, as a line that is typed is read: its name, then its code. */
export function asLines(swatches: readonly Pick<Swatch, "name" | "hex">[]): string {
  return swatches.map(({ name, hex }) => `${name} ${hex}`.trim()).join("\n");
}

/** What of a text of the clipboard is a clip; null for anything else. */
export function readClip(text: string): Clip | null {
  try {
    const { palette, name, step, ids } = JSON.parse(text) as Clip;
    const isClip =
      typeof palette === "string" &&
      typeof name === "string" &&
      Number.isInteger(step) &&
      Array.isArray(ids) &&
      ids.every((id) => typeof id === "string");
    return isClip ? { palette, name, step, ids } : null;
  } catch {
    return null;
  }
}

interface Document {
  swatches: { id: string; group?: string | null }[];
  groups?: { id: string }[];
  [key: string]: unknown;
}

/** The part of a palette's document that these swatches are: with their groups, without ramps, variants and places. */
export function partOf(document: Document, ids: readonly string[]): Document {
  const wanted = new Set(ids);
  const swatches = document.swatches.filter((swatch) => wanted.has(swatch.id));
  const used = new Set(swatches.map((swatch) => swatch.group));
  const { version } = document;
  return {
    ...(version === undefined ? {} : { version }),
    name: document.name,
    swatches,
    groups: (document.groups ?? []).filter((group) => used.has(group.id)),
  };
}

/** The operation that brings a clip into a palette. Throws where the palette it is of cannot be reached any more. */
export async function bringing(queries: QueryClient, clip: Clip) {
  const document = await queries.fetchQuery(ask.document(clip.palette, clip.step));
  return {
    kind: "bring_in",
    document: partOf(document as unknown as Document, clip.ids) as Record<string, unknown>,
    source: clip.name,
    how: "append",
    tolerance: 0,
    join_groups: true,
  } as const;
}

/** Take swatches of one palette into another that is not on the bench. */
export async function takeInto(queries: QueryClient, clip: Clip, target: string): Promise<Palette> {
  const operation = await bringing(queries, clip);
  const there = await queries.fetchQuery({ ...ask.palette(target), staleTime: 0 });
  const after = await operateOnce(target, there.revision, operation);
  queries.setQueryData(KEYS.palette(target), after);
  await queries.invalidateQueries({ queryKey: KEYS.shelf });
  return after;
}
