import type { Swatch } from "../../api/types";
import { cssBytes } from "../../ui/css-color";
import type { Box } from "./use-cells";

/** A swatch at a place of a panel, in CSS pixels. */
export interface Dot {
  swatch: Swatch;
  index: number;
  x: number;
  y: number;
  r: number;
}

export type Point = { x: number; y: number };

/** The pieces of a line between two dots; one that is shorter over the ends of the hue goes out there and comes in. */
export function pieces(
  from: Point,
  to: Point,
  hues: { left: number; right: number } | null,
): [Point, Point][] {
  const span = hues ? hues.right - hues.left : 0;
  const isShorterOver = hues && Math.min(from.x, to.x) >= hues.left && Math.abs(from.x - to.x) > span / 2;
  if (!isShorterOver) return [[from, to]];
  const [west, east] = from.x < to.x ? [from, to] : [to, from];
  const toWest = west.x - hues.left;
  const toEast = hues.right - east.x;
  const y = west.y + ((east.y - west.y) * toWest) / Math.max(toWest + toEast, 1e-9);
  return [
    [west, { x: hues.left, y }],
    [east, { x: hues.right, y }],
  ];
}

/** What a panel is drawn with. */
export interface Ink {
  ground: string;
  ink: string;
  css: (hex: string) => string;
  /** The same as `css`, as 8-bit channels of 8-bit channels. */
  rgb: (red: number, green: number, blue: number) => [number, number, number];
}

const MANY_LINKS = 200;

function lined(pen: CanvasRenderingContext2D, lines: readonly [Point, Point][]) {
  const share = lines.length > MANY_LINKS ? 0.5 : 1;
  for (const [stroke, wide] of [
    ["#fff", 4.5 * share],
    ["#000", 2 * share],
  ] as const) {
    pen.strokeStyle = stroke;
    pen.lineWidth = wide;
    pen.beginPath();
    for (const [from, to] of lines) {
      pen.moveTo(from.x, from.y);
      pen.lineTo(to.x, to.y);
    }
    pen.stroke();
  }
}

function round(pen: CanvasRenderingContext2D, { x, y, r }: Dot, more: number, fill: string) {
  pen.fillStyle = fill;
  pen.beginPath();
  pen.arc(x, y, r + more, 0, 2 * Math.PI);
  pen.fill();
}

/** From so many dots on they are set pixel by pixel: thousands of round paths would be felt. */
const MANY_DOTS = 1000;

/** The places of a disc around the middle of a pixel, as [across, down]. */
function discOf(radius: number): [number, number][] {
  const reach = Math.ceil(radius);
  const made: [number, number][] = [];
  for (let y = -reach; y <= reach; y++)
    for (let x = -reach; x <= reach; x++) if (x * x + y * y <= radius * radius) made.push([x, y]);
  return made;
}

/** Dots in rings, pixel by pixel. rings : by how much more than the dot each reaches, and its color, from the outermost in. */
function stamped(
  pen: CanvasRenderingContext2D,
  dots: readonly Dot[],
  rings: readonly [number, string][],
  { rgb }: Ink,
) {
  const { width, height } = pen.canvas;
  const { a: ratio, e: left, f: top } = pen.getTransform();
  const image = pen.createImageData(width, height);
  const words = new Uint32Array(image.data.buffer);
  const put = (disc: readonly [number, number][], x: number, y: number, color: readonly number[]) => {
    const [red = 0, green = 0, blue = 0] = color;
    const word = ((255 << 24) | (blue << 16) | (green << 8) | red) >>> 0;
    for (const [across, down] of disc) {
      const column = x + across;
      const row = y + down;
      if (column >= 0 && column < width && row >= 0 && row < height) words[row * width + column] = word;
    }
  };
  const radius = dots[0]?.r ?? 0;
  const around = rings.map(([more, color]) => [discOf((radius + more) * ratio), cssBytes(color)] as const);
  const inner = discOf(radius * ratio);
  for (const dot of dots) {
    const x = Math.round(dot.x * ratio + left);
    const y = Math.round(dot.y * ratio + top);
    for (const [disc, color] of around) put(disc, x, y, color);
    put(inner, x, y, rgb(...(dot.swatch.rgb as [number, number, number])));
  }
  pen.putImageData(image, 0, 0);
}

/** Draw dots with a rim of the ground, and the links between near twins over them. */
export function drawDots(
  pen: CanvasRenderingContext2D,
  dots: readonly Dot[],
  links: readonly [Point, Point][],
  ink: Ink,
) {
  if (dots.length > MANY_DOTS) stamped(pen, dots, [[1, ink.ground]], ink);
  else
    for (const dot of dots) {
      round(pen, dot, 1, ink.ground);
      round(pen, dot, 0, ink.css(dot.swatch.hex));
    }
  lined(pen, links);
}

/** Draw those that are selected once more, over all others, with a ring of ink. */
export function drawSelected(
  pen: CanvasRenderingContext2D,
  dots: readonly Dot[],
  selection: ReadonlySet<string>,
  ink: Ink,
) {
  const chosen = dots.filter((dot) => selection.has(dot.swatch.id));
  const rings: [number, string][] = [
    [4, ink.ink],
    [2, ink.ground],
  ];
  if (chosen.length > MANY_DOTS) stamped(pen, chosen, rings, ink);
  else
    for (const dot of chosen) {
      for (const [more, color] of rings) round(pen, dot, more, color);
      round(pen, dot, 0, ink.css(dot.swatch.hex));
    }
}

/** The dot that is seen at a place: of those that lie there the one that is drawn last. */
export function dotAt(
  dots: readonly Dot[],
  selection: ReadonlySet<string>,
  x: number,
  y: number,
): Dot | null {
  let found: Dot | null = null;
  for (const dot of dots) {
    if (Math.hypot(dot.x - x, dot.y - y) > dot.r + 1) continue;
    if (!found || selection.has(dot.swatch.id) || !selection.has(found.swatch.id)) found = dot;
  }
  return found;
}

/** The dots that a rectangle touches, given from the same corner as they. */
export function dotsIn(dots: readonly Dot[], { left, top, width, height }: Box): Dot[] {
  return dots.filter(
    ({ x, y, r }) => x + r > left && x - r < left + width && y + r > top && y - r < top + height,
  );
}

/** Lines between swatches and their nearest, where that is within so much. hues : the ends of the hue, where it goes round. */
export function linksOf(
  dots: readonly Dot[],
  shown: readonly Swatch[],
  within: number,
  hues: { left: number; right: number } | null,
): [Point, Point][] {
  const byId = new Map(dots.map((dot) => [dot.swatch.id, dot]));
  return dots.flatMap((dot) => {
    const near = dot.swatch.nearest_delta;
    const other = dot.swatch.nearest === null ? undefined : shown[dot.swatch.nearest ?? -1];
    const end = other && byId.get(other.id);
    return !end || near === null || near === undefined || near > within ? [] : pieces(dot, end, hues);
  });
}
