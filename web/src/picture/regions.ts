import type { Swatch } from "../api/types";
import type { View } from "./view";

/** In pixels of the picture. */
export interface Point {
  x: number;
  y: number;
}

/** Index bytes of width × height, and the swatch of each index. */
export interface Indexed {
  width: number;
  height: number;
  indices: Uint8Array;
  table: readonly (string | null)[];
}

/** Painting less than this share of an area, a swatch is a grain of a dither or the edge of something else. */
export const LEAST_SHARE = 0.005;

/** The swatch that paints a place; null where it is clear or outside. */
export function swatchAt(source: Indexed, { x, y }: Point): string | null {
  const column = Math.floor(x);
  const row = Math.floor(y);
  if (column < 0 || row < 0 || column >= source.width || row >= source.height) return null;
  return source.table[source.indices[row * source.width + column] ?? 0] ?? null;
}

/** The corners of the rectangle between two points. */
export function rectangle(from: Point, to: Point): Point[] {
  return [from, { x: to.x, y: from.y }, to, { x: from.x, y: to.y }];
}

/** How many pixels each swatch paints within a closed outline; a pixel is within where its middle is, by the even–odd rule. */
export function countWithin(source: Indexed, outline: readonly Point[]): Map<string, number> {
  const counts = new Float64Array(source.table.length);
  const { width, height, indices } = source;
  const rows = outline.map((point) => point.y);
  const first = Math.max(0, Math.floor(Math.min(...rows)));
  const last = Math.min(height - 1, Math.ceil(Math.max(...rows)));
  for (let row = first; row <= last; row++) {
    const middle = row + 0.5;
    const crossings: number[] = [];
    outline.forEach((from, place) => {
      const to = outline[(place + 1) % outline.length] as Point;
      if (from.y <= middle === to.y <= middle) return;
      crossings.push(from.x + ((middle - from.y) / (to.y - from.y)) * (to.x - from.x));
    });
    crossings.sort((one, other) => one - other);
    for (let pair = 0; pair + 1 < crossings.length; pair += 2) {
      const begin = Math.max(0, Math.ceil((crossings[pair] as number) - 0.5));
      const end = Math.min(width, Math.ceil((crossings[pair + 1] as number) - 0.5));
      for (let place = row * width + begin; place < row * width + end; place++)
        counts[indices[place] as number] = (counts[indices[place] as number] ?? 0) + 1;
    }
  }
  const found = new Map<string, number>();
  counts.forEach((count, index) => {
    const id = source.table[index];
    if (count > 0 && id) found.set(id, (found.get(id) ?? 0) + count);
  });
  return found;
}

/** The swatches that paint an area, in the order of `shown`; without those that paint next to nothing of it. */
export function swatchesWithin(counts: ReadonlyMap<string, number>, shown: readonly Swatch[]): string[] {
  let whole = 0;
  for (const count of counts.values()) whole += count;
  return shown
    .filter((swatch) => (counts.get(swatch.id) ?? 0) > whole * LEAST_SHARE)
    .map((swatch) => swatch.id);
}

/**
 * The outline of what the selected swatches paint, as it lies on the screen: a byte for each pixel of width × height, 1 where
 * the inner edge runs. Grains are smoothed away where anything else is left.
 */
export function outlineOnScreen(
  source: Indexed,
  selected: ReadonlySet<string>,
  view: View,
  size: { width: number; height: number },
): Uint8Array {
  const { width, height } = size;
  const chosen = Uint8Array.from(source.table, (id) => (id !== null && selected.has(id) ? 1 : 0));
  const columns = new Int32Array(width);
  for (let x = 0; x < width; x++) {
    const column = Math.floor((x + 0.5 - view.x) / view.zoom);
    columns[x] = column >= 0 && column < source.width ? column : -1;
  }
  const raw = new Uint8Array(width * height);
  let [first, last] = [height, -1];
  for (let y = 0; y < height; y++) {
    const row = Math.floor((y + 0.5 - view.y) / view.zoom);
    if (row < 0 || row >= source.height) continue;
    let any = 0;
    for (let x = 0; x < width; x++) {
      const column = columns[x] as number;
      if (column < 0) continue;
      const is = chosen[source.indices[row * source.width + column] as number] as number;
      raw[y * width + x] = is;
      any |= is;
    }
    if (!any) continue;
    first = Math.min(first, y);
    last = y;
  }
  // Where a pixel of the picture is large on the screen, each one is meant.
  const smooth = view.zoom >= 3 ? raw : withoutGrains(raw, width, first, last + 1);
  const edges = edgesOf(smooth, width, height, first, last + 1);
  return edges.includes(1) ? edges : edgesOf(raw, width, height, first, last + 1);
}

/** Each place as most of the nine around it; all that is set lies in the rows from `first` to before `end`. */
function withoutGrains(mask: Uint8Array, width: number, first: number, end: number): Uint8Array {
  const most = new Uint8Array(mask.length);
  // Sums of three side by side in the rows above, here and below.
  const sums = [new Uint8Array(width), new Uint8Array(width), new Uint8Array(width)];
  const sum = (row: number) => {
    const into = sums[(row + 3) % 3] as Uint8Array;
    if (row < first || row >= end) return into.fill(0);
    const begin = row * width;
    let left = 0;
    let here = mask[begin] as number;
    for (let x = 0; x < width; x++) {
      const right = x + 1 < width ? (mask[begin + x + 1] as number) : 0;
      into[x] = left + here + right;
      left = here;
      here = right;
    }
    return into;
  };
  let above = sum(first - 1);
  let here = sum(first);
  for (let row = first; row < end; row++) {
    const below = sum(row + 1);
    for (let x = 0; x < width; x++)
      if ((above[x] as number) + (here[x] as number) + (below[x] as number) >= 5) most[row * width + x] = 1;
    [above, here] = [here, below];
  }
  return most;
}

function edgesOf(mask: Uint8Array, width: number, height: number, first: number, end: number): Uint8Array {
  const edges = new Uint8Array(mask.length);
  for (let y = first; y < end; y++) {
    for (let x = 0; x < width; x++) {
      const place = y * width + x;
      if (!mask[place]) continue;
      const left = x > 0 ? mask[place - 1] : 0;
      const right = x < width - 1 ? mask[place + 1] : 0;
      const above = y > 0 ? mask[place - width] : 0;
      const below = y < height - 1 ? mask[place + width] : 0;
      if (!(left && right && above && below)) edges[place] = 1;
    }
  }
  return edges;
}
