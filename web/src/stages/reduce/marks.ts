import type { Recipe } from "../../api/types";

export type Mark = Recipe["marks"][number];
export type Shape = Mark["shape"];

/** How much a marked part counts; 0 is left out of choosing colors. */
export const WEIGHTS = [0, 2, 4, 8] as const;

export function weightLabel(weight: number) {
  return weight === 0 ? "ignored" : `× ${weight}`;
}

function share(value: number, whole: number) {
  return Math.min(1, Math.max(0, Number((value / whole).toFixed(5))));
}

/** A mark from a drag over picture pixels, or null where it is too small to mean anything. */
export function markFromDrag(
  shape: Shape,
  path: readonly { x: number; y: number }[],
  size: { width: number; height: number },
  weight: number,
  radius: number,
): Mark | null {
  const first = path[0];
  const last = path.at(-1);
  if (!first || !last) return null;
  if (shape === "brush") {
    const points = path.map(({ x, y }) => [share(x, size.width), share(y, size.height)] as [number, number]);
    return { shape: "brush", points: points.slice(0, 2000), radius, weight };
  }
  const x = share(Math.min(first.x, last.x), size.width);
  const y = share(Math.min(first.y, last.y), size.height);
  const width = share(Math.max(first.x, last.x), size.width) - x;
  const height = share(Math.max(first.y, last.y), size.height) - y;
  if (width < 0.002 || height < 0.002) return null;
  return { shape: "rectangle", x, y, width, height, weight };
}
