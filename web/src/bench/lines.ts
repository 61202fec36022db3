import type { QueryClient } from "@tanstack/react-query";
import { create } from "zustand";
import { persist } from "zustand/middleware";
import { KEYS } from "../api/keys";
import { ask } from "../api/queries";
import type { Palette, Schemas } from "../api/types";
import { inWords } from "../api/words";
import { useScreen } from "../shell/store";
import { newId } from "../ui/ids";
import { keptIn } from "../ui/kept";
import { type Bench, linkOf } from "./context";
import { triedRecipe } from "./tried";
import { WAITING } from "./use-changes";

type Part = Schemas["LinePart"];

/** What was entered and is not in the palette yet: one line, or several that were pasted together. */
export interface Entered {
  id: string;
  text: string;
  /** The swatch it goes behind; null for the end, and `undefined` where it goes behind the entry before. */
  behind: string | null | undefined;
  /** It is to stay in the next reduction, which is tried out with it at once. */
  locked?: boolean;
  /** Where it was sent to: the swatch it goes behind, null for the end, and how many there were. */
  sent?: { behind: string | null; count: number };
}

/** A line that is no color, until it is mended. */
export interface Refused {
  id: string;
  text: string;
  parts: Part[];
  why: string;
  locked?: boolean;
}

/** Fields for colors: to be added, to be kept in the next reduction, and the list that colors are taken from. */
export type Field = "text" | "keeping" | "list";

export interface Lines extends Record<Field, string> {
  entered: Entered[];
  refused: Refused[];
}

interface State {
  palettes: Record<string, Lines>;
  put: (palette: string, change: (before: Lines) => Partial<Lines>) => void;
}

export const NO_LINES: Lines = { text: "", keeping: "", list: "", entered: [], refused: [] };
const LONGEST_KEPT = 20_000;

const FIELDS: readonly Field[] = ["text", "keeping", "list"];

function storable(lines: Lines): Lines {
  const kept = { ...lines };
  for (const field of FIELDS) if (kept[field].length > LONGEST_KEPT) kept[field] = "";
  return kept;
}

/** What was typed for each palette; a reload loses nothing of it. */
export const useLines = create<State>()(
  persist(
    (set) => ({
      palettes: {},
      put: (palette, change) =>
        set(({ palettes }) => {
          const before = palettes[palette] ?? NO_LINES;
          return { palettes: { ...palettes, [palette]: { ...before, ...change(before) } } };
        }),
    }),
    {
      name: "huvren.typed",
      storage: keptIn(() => sessionStorage),
      // A very long text would not fit, and what does not fit would keep the rest from being stored.
      partialize: ({ palettes }) => ({
        palettes: Object.fromEntries(Object.entries(palettes).map(([id, lines]) => [id, storable(lines)])),
      }),
    },
  ),
);

const linesOf = (palette: string) => useLines.getState().palettes[palette] ?? NO_LINES;
const running = new Set<string>();

/** Adds a text as soon as what was entered before is in. */
export function enter(queries: QueryClient, bench: Bench, text: string, { locked = false } = {}) {
  if (!text.trim()) return;
  const behind = linesOf(bench.id).entered.length
    ? undefined
    : (useScreen.getState().selected.at(-1) ?? null);
  useLines.getState().put(bench.id, ({ entered }) => ({
    entered: [...entered, { id: newId(), text, behind, locked }],
  }));
  void work(queries, bench);
}

/** Adds what is entered, one after the other in order; what was entered before a reload too. */
export async function work(queries: QueryClient, bench: Bench) {
  const { put } = useLines.getState();
  if (running.has(bench.id)) return;
  running.add(bench.id);
  let last: string | null = useScreen.getState().selected.at(-1) ?? null;
  try {
    for (;;) {
      const [next] = linesOf(bench.id).entered;
      if (!next) return;
      const wanted = next.behind === undefined ? last : next.behind;
      const behind = next.sent ? next.sent.behind : wanted;
      const { added, refused } = await add(queries, bench, next, behind);
      last = added.at(-1) ?? behind;
      put(bench.id, (before) => ({
        // Where the next one goes is kept with it, for it may be sent by the page after this one.
        entered: before.entered
          .filter((entry) => entry.id !== next.id)
          .map((entry, place) =>
            place === 0 && entry.behind === undefined ? { ...entry, behind: last } : entry,
          ),
        refused: [...before.refused, ...refused],
      }));
      // Another bench may be open by now.
      if (added.length && bench.isOpen()) useScreen.getState().select(added);
    }
  } finally {
    running.delete(bench.id);
  }
}

/** The swatches that came of an entry. The one before it may have been sent by the page before this one, and be in `before` already. */
function broughtBy(
  sent: NonNullable<Entered["sent"]>,
  before: Palette | undefined,
  after: Palette,
): string[] {
  const known = new Set(before?.swatches.map((swatch) => swatch.id));
  const ids = after.swatches.map((swatch) => swatch.id);
  const fresh = ids.filter((id) => !known.has(id));
  const more = ids.length - sent.count;
  if (fresh.length || more <= 0) return fresh;
  const at = sent.behind === null ? ids.length - more : ids.indexOf(sent.behind) + 1;
  return ids.slice(at, at + more);
}

/** Reads what was entered and adds what is understood of it, in its turn. */
function add(queries: QueryClient, bench: Bench, entry: Entered, behind: string | null) {
  const { id, commands } = bench;
  const { locked = false } = entry;
  const refuse = (
    text: string,
    why = "This line is no color.",
    parts: Part[] = [{ text, is_wrong: false }],
  ) => ({
    id: newId(),
    text,
    why,
    parts,
    locked,
  });
  return commands.inTurn(async ({ settle, change }) => {
    let read: Schemas["ParsedOut"];
    try {
      read = await queries.fetchQuery({ ...ask.parsed(entry.text.trim()), ...WAITING });
    } catch (error) {
      return { added: [], refused: [refuse(entry.text, inWords(error))] };
    }
    const left = read.left ? read.left.split("\n") : [];
    const refused = left.map((text, place) => refuse(text, read.wrong[place]?.why, read.wrong[place]?.parts));
    if (!read.taken) return { added: [], refused };
    const failed = () =>
      read.taken
        .split("\n")
        .map((text) => refuse(text, "This was not added; enter it again to try once more."));
    // What is to be kept belongs to the recipe that is tried out; anything else keeps that first.
    if (!locked && !(await settle())) return { added: [], refused: [...refused, ...failed()] };
    const before = queries.getQueryData<Palette>(KEYS.palette(id));
    const place = locked ? -1 : (before?.swatches.findIndex((swatch) => swatch.id === behind) ?? -1);
    const sent = entry.sent ?? { behind: place < 0 ? null : behind, count: before?.swatches.length ?? 0 };
    useLines.getState().put(id, ({ entered }) => ({
      entered: entered.map((line) => (line.id === entry.id ? { ...line, sent } : line)),
    }));
    const operation = {
      kind: "add_swatches" as const,
      text: read.taken,
      after: place < 0 ? null : place,
      locked,
    };
    // The entry's own id: what is sent again by the page after this one goes in once.
    const after = await change({ kind: "operation", operation }, entry.id);
    if (!after) return { added: [], refused: [...refused, ...failed()] };
    const link = locked && linkOf(after, bench.view.getState().looked);
    if (link) {
      commands.tryRecipe(link.picture.id, triedRecipe(id, link.picture.id) ?? link.recipe);
      return { added: [], refused };
    }
    return { added: broughtBy(sent, before, after), refused };
  });
}
