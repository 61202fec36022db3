/** Where a picture of `width` × `height` lies in the area: zoom in screen pixels per picture pixel, and its corner. */
export interface View {
  zoom: number;
  x: number;
  y: number;
}

export const LEAST_ZOOM = 0.05;
export const MOST_ZOOM = 32;
const MARGIN = 20;

/** The whole picture, as large as it goes without being enlarged more than it can bear: whole steps beyond 100 %. */
export function fitView(
  width: number,
  height: number,
  areaWidth: number,
  areaHeight: number,
  margin = MARGIN,
): View {
  const room = Math.min((areaWidth - 2 * margin) / width, (areaHeight - 2 * margin) / height);
  const zoom = Math.max(room >= 2 ? Math.floor(Math.min(room, MOST_ZOOM)) : Math.min(room, 1.6), 0.01);
  return { zoom, x: (areaWidth - width * zoom) / 2, y: (areaHeight - height * zoom) / 2 };
}

/** Zoom so that the point of the picture under (x, y) stays there. */
export function zoomAt(view: View, zoom: number, x: number, y: number): View {
  const next = Math.min(MOST_ZOOM, Math.max(LEAST_ZOOM, zoom));
  return { zoom: next, x: x - ((x - view.x) / view.zoom) * next, y: y - ((y - view.y) / view.zoom) * next };
}
