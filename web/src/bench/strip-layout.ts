import { FINGER_PX } from "../ui/window";

export const ROW_MOST = 64;
const ONE_ROW_MOST = 72;

/**
 * How a strip of `count` swatches is laid out: one row up to 72, then rows of 64, lower the more there are; where fingers work,
 * in rows of as many as there is room for, each as high as a finger.
 */
export function layOut(
  count: number,
  fingersAcross: number | null = null,
): { perRow: number; rows: number; height: number; isSingle: boolean } {
  if (fingersAcross !== null && count > fingersAcross)
    return {
      perRow: fingersAcross,
      rows: Math.ceil(count / fingersAcross),
      height: FINGER_PX,
      isSingle: false,
    };
  if (count <= ONE_ROW_MOST) return { perRow: Math.max(count, 1), rows: 1, height: 58, isSingle: true };
  const rows = Math.ceil(count / ROW_MOST);
  return { perRow: ROW_MOST, rows, height: rows <= 2 ? 32 : 24, isSingle: false };
}

/** Rows worth drawing when only part of many is in view. */
export function rowsInView(
  rows: number,
  height: number,
  scrollTop: number,
  viewHeight: number,
): [number, number] {
  const first = Math.max(0, Math.floor(scrollTop / height) - 2);
  return [first, Math.min(rows, Math.ceil((scrollTop + viewHeight) / height) + 2)];
}

/** Index that a dragged swatch gets, from the place of the gap among all swatches and the places being dragged. */
export function targetIndex(gap: number, moving: number[]): number {
  return gap - moving.filter((place) => place < gap).length;
}
