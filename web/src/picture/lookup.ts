import type { Swatch } from "../api/types";

/** One swatch changed while a control moves. */
export interface Override {
  id: string;
  rgb: [number, number, number];
}

const DIMMED = 0.16;

/**
 * The 256 words that an index map is painted through, in the byte order of canvas pixels. With `only`, every other
 * swatch fades toward `around`, a gray level 0..255. `inGray` shows lightness alone; `see` is what a lens makes of a color.
 */
export function lookupTable(
  table: readonly (string | null)[],
  swatches: readonly Swatch[],
  override: Override | null,
  only: string | null,
  around: number,
  inGray = false,
  see: (red: number, green: number, blue: number) => [number, number, number] = (...channels) => channels,
): Uint32Array<ArrayBuffer> {
  const byId = new Map(swatches.map((swatch) => [swatch.id, swatch]));
  const words = new Uint32Array(256);
  table.forEach((id, index) => {
    const swatch = id === null ? undefined : byId.get(id);
    if (!swatch || swatch.alpha === 0) return;
    const gray = [swatch.gray, swatch.gray, swatch.gray] as const;
    const [r = 0, g = 0, b = 0] = inGray ? gray : override?.id === id ? override.rgb : swatch.rgb;
    let [red, green, blue] = see(r, g, b);
    if (only && only !== id) {
      red = Math.round(red * DIMMED + around * (1 - DIMMED));
      green = Math.round(green * DIMMED + around * (1 - DIMMED));
      blue = Math.round(blue * DIMMED + around * (1 - DIMMED));
    }
    words[index] = ((Math.round(swatch.alpha * 255) << 24) | (blue << 16) | (green << 8) | red) >>> 0;
  });
  return words;
}

/** Paint index bytes through a table into canvas pixels. */
export function paint(indices: Uint8Array, words: Uint32Array, pixels: Uint32Array) {
  const count = Math.min(indices.length, pixels.length);
  for (let place = 0; place < count; place++) pixels[place] = words[indices[place] as number] as number;
}
