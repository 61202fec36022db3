import type { Copies } from "./large";
import { scaled } from "./scale";
import type { View } from "./view";

/** Pixels of a source that are scaled at once; of a larger part a thread makes copies first. */
export const MOST_PIXELS = 6_000_000;

interface Side {
  /** Of the area, in CSS pixels. */
  size: { width: number; height: number };
  view: View | null;
  /** Of the picture; what is drawn of it may have more or fewer pixels. */
  width: number;
  height: number;
  /** Between which places of the area it is seen. */
  from: number;
  to: number;
  /** The source smaller and smaller, the whole first, where it is large. */
  copies?: Copies | undefined;
  /** Changes whenever the source was painted anew. */
  version?: number;
  /** Smaller by the mean of sRGB numbers, as other viewers do, in place of the mean of light. */
  asOthers?: boolean;
}

/** Places in device pixels. */
interface Place {
  x: number;
  y: number;
  /** Device pixels a pixel of the source. */
  zoom: number;
}

/** Draw a picture of width × height into its view, between two places of the area: by nearest pixels at whole zooms, else by area in linear light. */
export function draw(target: HTMLCanvasElement | null, source: CanvasImageSource | null, side: Side) {
  const pen = target?.getContext("2d");
  const { size, view, width, height, from, to } = side;
  if (!target || !pen || !view || !size.width) return;
  const ratio = window.devicePixelRatio || 1;
  const wide = Math.round(size.width * ratio);
  const high = Math.round(size.height * ratio);
  if (target.width !== wide || target.height !== high) {
    target.width = wide;
    target.height = high;
  }
  pen.setTransform(1, 0, 0, 1, 0, 0);
  pen.clearRect(0, 0, wide, high);
  if (!source || to <= from) return;
  const corner = { x: Math.round(view.x * ratio), y: Math.round(view.y * ratio) };
  const { image, zoom } = finest(
    side.copies?.length ? side.copies : [source],
    corner,
    view.zoom * ratio * width,
    wide,
    high,
  );
  const place = { ...corner, zoom };
  const whole = sizeOf(image);
  if (!whole.width || !whole.height) return;
  const shown = { width: width * view.zoom * ratio, height: height * view.zoom * ratio };
  pen.save();
  pen.beginPath();
  pen.rect(Math.round(from * ratio), 0, Math.round(to * ratio) - Math.round(from * ratio), high);
  pen.clip();
  pen.fillStyle = checks(pen, ratio);
  pen.fillRect(place.x, place.y, shown.width, shown.height);
  const isWholeStep = zoom >= 1 && Math.abs(zoom - Math.round(zoom)) < 1e-6;
  const isOthers = side.asOthers === true && zoom < 1;
  const made =
    isWholeStep || isOthers ? null : inLight(target, image, whole, place, wide, high, side.version ?? 0);
  if (made) {
    pen.imageSmoothingEnabled = false;
    pen.drawImage(made.canvas, made.x, made.y);
  } else {
    pen.imageSmoothingEnabled = zoom < 1;
    pen.imageSmoothingQuality = zoom < 0.5 ? "medium" : "low";
    pen.drawImage(image, place.x, place.y, shown.width, shown.height);
  }
  pen.restore();
}

/** The first of these, the largest, of which what is seen can be scaled at once; and how large its pixels are drawn. */
export function finest<Image extends CanvasImageSource>(
  images: readonly Image[],
  corner: { x: number; y: number },
  drawnWide: number,
  wide: number,
  high: number,
): { image: Image; zoom: number } {
  for (const [place, image] of images.entries()) {
    const whole = sizeOf(image);
    const zoom = drawnWide / whole.width;
    const across = Math.min(whole.width * zoom, wide - corner.x) - Math.max(0, -corner.x);
    const down = Math.min(whole.height * zoom, high - corner.y) - Math.max(0, -corner.y);
    const seen = Math.max(0, across / zoom) * Math.max(0, down / zoom);
    if (seen <= MOST_PIXELS || place === images.length - 1) return { image, zoom };
  }
  throw new Error("There is nothing to draw.");
}

interface Drawn {
  source: CanvasImageSource;
  key: string;
  canvas: OffscreenCanvas;
  x: number;
  y: number;
}

/** What was scaled last for each canvas: while the divider moves, and while a picture is panned that is seen whole, it is drawn again. */
const drawn = new WeakMap<HTMLCanvasElement, Drawn>();

function inLight(
  target: HTMLCanvasElement,
  source: CanvasImageSource,
  whole: { width: number; height: number },
  place: Place,
  wide: number,
  high: number,
  version: number,
): Drawn | null {
  const { zoom } = place;
  const far = { x: Math.ceil(whole.width * zoom - 1e-6), y: Math.ceil(whole.height * zoom - 1e-6) };
  const isSeenWhole = zoom < 1 && whole.width * whole.height <= MOST_PIXELS;
  const left = isSeenWhole ? 0 : Math.max(0, -place.x);
  const top = isSeenWhole ? 0 : Math.max(0, -place.y);
  const width = (isSeenWhole ? far.x : Math.min(far.x, wide - place.x)) - left;
  const height = (isSeenWhole ? far.y : Math.min(far.y, high - place.y)) - top;
  if (width <= 0 || height <= 0) return null;
  const key = [version, zoom, left, top, width, height].join();
  const last = drawn.get(target);
  const corner = { x: place.x + left, y: place.y + top };
  if (last?.source === source && last.key === key) return Object.assign(last, corner);
  const box = { x: left / zoom, y: top / zoom, width: width / zoom, height: height / zoom };
  const pixels = pixelsOf(source, whole, box, version);
  if (!pixels) return null;
  const reuse = last && last.canvas.width === width && last.canvas.height === height;
  const canvas = reuse ? last.canvas : new OffscreenCanvas(width, height);
  const image = new ImageData(width, height);
  scaled(
    pixels.image,
    { ...box, x: box.x - pixels.x, y: box.y - pixels.y },
    width,
    height,
    image.data as Uint8ClampedArray<ArrayBuffer>,
  );
  canvas.getContext("2d")?.putImageData(image, 0, 0);
  const made = { source, key, canvas, ...corner };
  drawn.set(target, made);
  return made;
}

export function sizeOf(source: CanvasImageSource) {
  if (source instanceof HTMLImageElement) return { width: source.naturalWidth, height: source.naturalHeight };
  return source as { width: number; height: number };
}

/** Pixels of sources that are read as a whole, as long as they are not painted anew. */
const known = new WeakMap<object, { version: number; image: ImageData }>();

/** The pixels of a part of a source, and where they begin in it; null for a part that is too large. */
function pixelsOf(
  source: CanvasImageSource,
  whole: { width: number; height: number },
  box: { x: number; y: number; width: number; height: number },
  version: number,
) {
  if (whole.width * whole.height <= MOST_PIXELS) {
    const held = known.get(source as object);
    if (held?.version === version) return { image: held.image, x: 0, y: 0 };
    const image = read(source, 0, 0, whole.width, whole.height);
    if (image) known.set(source as object, { version, image });
    return image && { image, x: 0, y: 0 };
  }
  const [x, y] = [Math.floor(box.x), Math.floor(box.y)];
  const width = Math.min(whole.width, Math.ceil(box.x + box.width)) - x;
  const height = Math.min(whole.height, Math.ceil(box.y + box.height)) - y;
  if (width * height > MOST_PIXELS) return null;
  const image = read(source, x, y, width, height);
  return image && { image, x, y };
}

function read(
  source: CanvasImageSource,
  x: number,
  y: number,
  width: number,
  height: number,
): ImageData | null {
  if (source instanceof OffscreenCanvas)
    return source.getContext("2d", { willReadFrequently: true })?.getImageData(x, y, width, height) ?? null;
  const pen = new OffscreenCanvas(width, height).getContext("2d", { willReadFrequently: true });
  pen?.drawImage(source, x, y, width, height, 0, 0, width, height);
  return pen?.getImageData(0, 0, width, height) ?? null;
}

/** Draw a picture over a whole canvas of `scale` times its size, smaller by the mean of light. */
export function drawWhole(pen: CanvasRenderingContext2D, image: HTMLImageElement, scale: number) {
  const { width, height } = pen.canvas;
  const whole = { width: image.naturalWidth, height: image.naturalHeight };
  const held = scale < 1 && whole.width > 0 ? pixelsOf(image, whole, { x: 0, y: 0, ...whole }, 0) : null;
  if (held) {
    const made = new ImageData(width, height);
    scaled(held.image, { x: 0, y: 0, ...whole }, width, height, made.data as Uint8ClampedArray<ArrayBuffer>);
    pen.putImageData(made, 0, 0);
    return;
  }
  // A drawing without a size, one as large as it is, or more pixels than can be scaled at once.
  pen.imageSmoothingEnabled = scale < 1;
  pen.drawImage(image, 0, 0, width, height);
}

let pattern: { ratio: number; fill: CanvasPattern | null } | null = null;

/** The gray checks that stand for clear pixels. */
function checks(pen: CanvasRenderingContext2D, ratio: number): CanvasPattern | string {
  if (pattern?.ratio === ratio && pattern.fill) return pattern.fill;
  const half = Math.max(1, Math.round(8 * ratio));
  const tile = new OffscreenCanvas(2 * half, 2 * half);
  const brush = tile.getContext("2d");
  if (!brush) return "#bbb";
  brush.fillStyle = "#c8c8c8";
  brush.fillRect(0, 0, 2 * half, 2 * half);
  brush.fillStyle = "#a8a8a8";
  brush.fillRect(0, 0, half, half);
  brush.fillRect(half, half, half, half);
  pattern = { ratio, fill: pen.createPattern(tile, "repeat") };
  return pattern.fill ?? "#bbb";
}
