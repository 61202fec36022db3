/**
 * Pictures at another size: each new pixel is the mean, in linear light, of the area that it covers. What a viewer shows that takes the
 * mean of sRGB numbers is darker than a dither looks from a distance. The server does the same (`huvren/core/scaling.py`).
 */

export interface Pixels {
  width: number;
  height: number;
  /** RGBA, sRGB, not premultiplied. */
  data: Uint8ClampedArray | Uint8Array;
}

/** A part of a picture in its pixels: fractions, and places beyond it, where nothing is. */
export interface Box {
  x: number;
  y: number;
  width: number;
  height: number;
}

const FINE = 4095;
const toLight = (value: number) => (value <= 0.04045 ? value / 12.92 : ((value + 0.055) / 1.055) ** 2.4);
/** Linear light of each 8-bit number. */
const LIGHT = Float64Array.from({ length: 256 }, (_, value) => toLight(value / 255));
/** Light from which on the next number is nearer. */
const BOUNDS = Float64Array.from({ length: 256 }, (_, value) =>
  value === 255 ? 2 : toLight((value + 0.5) / 255),
);
/** The number of each light, which may be that of a light just below it. */
const GUESSES = (() => {
  let value = 0;
  return Uint8Array.from({ length: FINE + 1 }, (_, place) => {
    while (place / FINE >= (BOUNDS[value] as number)) value++;
    return value;
  });
})();

/** The 8-bit number nearest to linear light 0..1. */
export function numberOf(light: number): number {
  const seen = Math.min(light, 1);
  let value = GUESSES[(seen * FINE) | 0] as number;
  while (seen >= (BOUNDS[value] as number)) value++;
  return value;
}

interface Spans {
  begin: Int32Array;
  end: Int32Array;
  /** How much of the first and of the last old pixel lies under each new one; all of those between. */
  first: Float64Array;
  last: Float64Array;
}

function spans(from: number, length: number, count: number, size: number): Spans {
  const step = length / count;
  const made: Spans = {
    begin: new Int32Array(count),
    end: new Int32Array(count),
    first: new Float64Array(count),
    last: new Float64Array(count),
  };
  for (let place = 0; place < count; place++) {
    const low = Math.min(Math.max(from + place * step, 0), size);
    const high = Math.min(Math.max(from + (place + 1) * step, 0), size);
    const begin = Math.floor(low);
    const end = Math.max(begin, Math.ceil(high));
    made.begin[place] = begin;
    made.end[place] = end;
    made.first[place] = Math.min(high, begin + 1) - low;
    made.last[place] = high - Math.max(low, end - 1);
  }
  return made;
}

/** One row of the picture at its new width: premultiplied light and cover, four numbers a pixel. */
function across(source: Pixels, row: number, columns: Spans, out: Float64Array) {
  const { data, width } = source;
  const count = columns.begin.length;
  for (let place = 0; place < count; place++) {
    const begin = columns.begin[place] as number;
    const end = columns.end[place] as number;
    let red = 0;
    let green = 0;
    let blue = 0;
    let alpha = 0;
    let at = (row * width + begin) * 4;
    for (let column = begin; column < end; column++, at += 4) {
      let wide = 1;
      if (column === begin) wide = columns.first[place] as number;
      else if (column === end - 1) wide = columns.last[place] as number;
      const covered = (wide * (data[at + 3] as number)) / 255;
      red += covered * (LIGHT[data[at] as number] as number);
      green += covered * (LIGHT[data[at + 1] as number] as number);
      blue += covered * (LIGHT[data[at + 2] as number] as number);
      alpha += covered;
    }
    const into = place * 4;
    out[into] = red;
    out[into + 1] = green;
    out[into + 2] = blue;
    out[into + 3] = alpha;
  }
}

/** A part of a picture, drawn width × height pixels large into `out`, RGBA. */
export function scaled(
  source: Pixels,
  box: Box,
  width: number,
  height: number,
  out = new Uint8ClampedArray(width * height * 4),
) {
  const columns = spans(box.x, box.width, width, source.width);
  const rows = spans(box.y, box.height, height, source.height);
  const full = (box.width / width) * (box.height / height);
  const sums = new Float64Array(width * 4);
  // The last row of one new pixel is the first of the next.
  const line = new Float64Array(width * 4);
  let known = -1;
  for (let y = 0; y < height; y++) {
    sums.fill(0);
    const begin = rows.begin[y] as number;
    const end = rows.end[y] as number;
    for (let row = begin; row < end; row++) {
      if (known !== row) across(source, row, columns, line);
      known = row;
      let tall = 1;
      if (row === begin) tall = rows.first[y] as number;
      else if (row === end - 1) tall = rows.last[y] as number;
      for (let place = 0; place < sums.length; place++)
        sums[place] = (sums[place] as number) + tall * (line[place] as number);
    }
    for (let at = 0, into = y * width * 4; at < sums.length; at += 4, into += 4) {
      const alpha = sums[at + 3] as number;
      out[into + 3] = Math.floor(Math.min(alpha / full, 1) * 255 + 0.5);
      for (let channel = 0; channel < 3; channel++)
        out[into + channel] = alpha > 0 ? numberOf((sums[at + channel] as number) / alpha) : 0;
    }
  }
  return out;
}

/** A picture and smaller copies of it, each half as wide and half as high as the one before, down to so many pixels. */
export function copiesOf(source: Pixels, least: number): Pixels[] {
  const made = [source];
  for (let last = source; last.width * last.height > least && Math.min(last.width, last.height) > 1; ) {
    const [width, height] = [Math.ceil(last.width / 2), Math.ceil(last.height / 2)];
    const whole = { x: 0, y: 0, width: last.width, height: last.height };
    last = { width, height, data: scaled(last, whole, width, height) };
    made.push(last);
  }
  return made;
}
