import type { Palette, Swatch } from "../api/types";

/** A move that has been asked for and is not in the palette yet. */
export interface Move {
  ids: readonly string[];
  to: number;
}

/**
 * The swatches as they stand once the server has moved them: what is put down is seen there at once. The rule is that of the step
 * `move_swatches`, and one table of cases, tests/moves.json, holds both to it.
 */
function moved(swatches: readonly Swatch[], { ids, to }: Move): readonly Swatch[] {
  const wanted = new Set(ids);
  const moving = swatches.filter((swatch) => wanted.has(swatch.id));
  const staying = swatches.filter((swatch) => !wanted.has(swatch.id));
  const at = Math.min(to, staying.length);
  const group = groupAt(staying, at, moving);
  const there = moving.map((swatch) => (swatch.group === group ? swatch : { ...swatch, group }));
  return [...staying.slice(0, at), ...there, ...staying.slice(at)];
}

/** The group that swatches join at a place: their own where that borders, else their left neighbor's, else their right's. */
function groupAt(staying: readonly Swatch[], at: number, moving: readonly Swatch[]) {
  const sides = staying.slice(at ? at - 1 : 0, at + 1).map((swatch) => swatch.group);
  const own = new Set(moving.map((swatch) => swatch.group));
  if (sides.length === 2 && sides[0] === sides[1]) return sides[0] ?? null;
  const [only = null] = own;
  if (own.size === 1 && sides.includes(only)) return only;
  return sides[0] !== undefined ? sides[0] : (moving[0]?.group ?? null);
}

/** With the places that swatches name of one another as they are now. */
function renumbered(before: readonly Swatch[], after: readonly Swatch[]): Swatch[] {
  const places = new Map(after.map((swatch, place) => [swatch.id, place]));
  const now = before.map((swatch) => places.get(swatch.id) ?? 0);
  return after.map((swatch) => {
    const nearest = swatch.nearest === null ? null : (now[swatch.nearest] ?? null);
    return nearest === swatch.nearest ? swatch : { ...swatch, nearest };
  });
}

const remembered = new WeakMap<readonly Swatch[], { moves: readonly Move[]; made: Swatch[] }>();

/** The swatches with moves that are still under way; for the same moves the same array, and without any the palette's own. */
export function ahead(swatches: Swatch[], moves: readonly Move[]): Swatch[] {
  if (moves.length === 0) return swatches;
  const known = remembered.get(swatches);
  if (known?.moves === moves) return known.made;
  const after = moves.reduce(moved, swatches as readonly Swatch[]);
  const made = after.every((swatch, place) => swatch === swatches[place])
    ? swatches
    : renumbered(swatches, after);
  remembered.set(swatches, { moves, made });
  return made;
}

/** Whether what a move does is known here: in numbered places the server finds the free ones. */
export const isForeseen = (palette: Palette) => palette.slots === null;
