import { useMemo } from "react";
import { create } from "zustand";
import { seeThrough } from "../api/ask-once";
import { cssBytes } from "../ui/css-color";

/** A lens and how strong it is; without one, colors are as they are. */
export interface Chosen {
  id: string;
  label: string;
  amount: number | null;
}

interface LensState {
  lens: Chosen | null;
  /** Grows with every answer, so that what is drawn is drawn anew. */
  version: number;
  choose: (lens: Chosen | null) => void;
}

const MOST_ASKED = 60_000;
const RETRY = 2000;

export const useLensStore = create<LensState>((set) => ({
  lens: null,
  version: 0,
  choose: (lens) => {
    table = new Map();
    wanted = new Set();
    set((state) => ({ lens, version: state.version + 1 }));
  },
}));

/** What each color (0xrrggbb) looks like through the lens of the moment, as the server says, and those still to be asked. */
let table = new Map<number, number>();
let wanted = new Set<number>();
let asking = false;

async function askWanted() {
  const { lens } = useLensStore.getState();
  const into = table;
  const batch = [...wanted].slice(0, MOST_ASKED);
  if (asking || !lens || batch.length === 0) return;
  asking = true;
  for (const color of batch) wanted.delete(color);
  try {
    const colors = batch.map((color) => color.toString(16).padStart(6, "0")).join("");
    const seen = await seeThrough(lens.id, lens.amount, colors);
    batch.forEach((color, place) => {
      into.set(color, Number.parseInt(seen.slice(place * 6, place * 6 + 6), 16));
    });
    useLensStore.setState((state) => ({ version: state.version + 1 }));
  } catch {
    // The server is away: a little later colors are drawn again, and so asked for again.
    setTimeout(() => useLensStore.setState((state) => ({ version: state.version + 1 })), RETRY);
  } finally {
    asking = false;
    if (wanted.size) void askWanted();
  }
}

/** 0xrrggbb as it is seen; the color itself until the answer is there. */
export function seenWord(color: number): number {
  const known = table.get(color);
  if (known !== undefined) return known;
  if (!useLensStore.getState().lens) return color;
  if (wanted.size === 0 && !asking) queueMicrotask(() => void askWanted());
  wanted.add(color);
  return color;
}

const HEX = /^#([0-9a-f]{6})([0-9a-f]{2})?$/i;

/** A CSS color as it is seen; its alpha stays. */
export function seenCss(css: string): string {
  const hex = HEX.exec(css);
  const [red, green, blue] = hex ? [0, 0, 0] : cssBytes(css);
  const color = hex ? Number.parseInt(hex[1] as string, 16) : (red << 16) | (green << 8) | blue;
  return `#${seenWord(color).toString(16).padStart(6, "0")}${hex?.[2] ?? ""}`;
}

/** Three channels as they are seen. */
export function seenRgb(red: number, green: number, blue: number): [number, number, number] {
  const word = seenWord((red << 16) | (green << 8) | blue);
  return [word >> 16, (word >> 8) & 255, word & 255];
}

/** Four bytes a pixel as they are seen: a copy, alpha as it is. */
export function seenPixels(rgba: Uint8ClampedArray<ArrayBuffer>): Uint8ClampedArray<ArrayBuffer> {
  const seen = rgba.slice();
  for (let place = 0; place < seen.length; place += 4) {
    const word = seenWord(
      ((rgba[place] ?? 0) << 16) | ((rgba[place + 1] ?? 0) << 8) | (rgba[place + 2] ?? 0),
    );
    seen[place] = word >> 16;
    seen[place + 1] = (word >> 8) & 255;
    seen[place + 2] = word & 255;
  }
  return seen;
}

/** Colors as they are seen. */
export interface Lens {
  /** “deutan:80”, as the server reads it; null without a lens. */
  said: string | null;
  css: (css: string) => string;
  rgb: (red: number, green: number, blue: number) => [number, number, number];
  pixels: (rgba: Uint8ClampedArray<ArrayBuffer>) => Uint8ClampedArray<ArrayBuffer>;
  /** Whether a color that was just looked at is still being asked for: what is costly to draw can wait for it. */
  isWaiting: () => boolean;
}

const NONE: Lens = {
  said: null,
  css: (css) => css,
  rgb: (red, green, blue) => [red, green, blue],
  pixels: (rgba) => rgba,
  isWaiting: () => false,
};

/** Another object whenever what is seen changes: the lens that everything of the artist's is seen through. Colors that are kept or exported never go through it. */
export function useLens(): Lens {
  const lens = useLensStore((state) => state.lens);
  const version = useLensStore((state) => (state.lens ? state.version : 0));
  // biome-ignore lint/correctness/useExhaustiveDependencies: with every version colors are seen anew
  return useMemo(() => {
    if (!lens) return NONE;
    const said = lens.amount === null ? lens.id : `${lens.id}:${lens.amount}`;
    return {
      said,
      css: seenCss,
      rgb: seenRgb,
      pixels: seenPixels,
      isWaiting: () => asking || wanted.size > 0,
    };
  }, [lens, version]);
}
