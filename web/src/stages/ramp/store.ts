import { create } from "zustand";
import type { RampRecipe, RampStop } from "../../api/types";

export type Drawn = "continuous" | "stepped";

export const RAMP_VIEWS = [
  { id: "lanes", label: "Side by side" },
  { id: "closer", label: "Closer" },
  { id: "purpose", label: "For a purpose" },
  { id: "fit", label: "From a picture" },
  { id: "tone", label: "Tone a picture" },
  { id: "take", label: "Take along" },
] as const;
export type RampView = (typeof RAMP_VIEWS)[number]["id"];

/** The ramp being worked on at one bench. kept : the id of the kept ramp that it began as. */
export interface RampState {
  recipe: RampRecipe;
  kept: string | null;
  drawn: Drawn;
  /** The stop whose words are shown. */
  stop: number | null;
  /** Whether its stops are those of the selection and go on following it; once they are changed by hand they do not. */
  follows: boolean;
}

const LANES = "huvren.lanes";

function rememberedLanes(): string[] | null {
  try {
    const lanes = JSON.parse(localStorage.getItem(LANES) ?? "null") as unknown;
    return Array.isArray(lanes) && lanes.every((lane) => typeof lane === "string") ? lanes : null;
  } catch {
    return null;
  }
}

interface Ramps {
  ramps: Record<string, RampState>;
  view: RampView;
  /** The lanes that stand, or null for the usual ones. */
  lanes: string[] | null;
  /** Two lanes whose difference is drawn. */
  compare: readonly [string, string] | null;
  set: (palette: string, part: Partial<RampState>) => void;
  setView: (view: RampView) => void;
  setLanes: (lanes: string[]) => void;
  setCompare: (compare: readonly [string, string] | null) => void;
}

/** The ramp being worked on at each bench lives as long as the page; which lanes stand is remembered. */
export const useRamps = create<Ramps>((set) => ({
  ramps: {},
  view: "lanes",
  lanes: rememberedLanes(),
  compare: null,
  set: (palette, part) =>
    set(({ ramps }) => ({ ramps: { ...ramps, [palette]: { ...EMPTY_RAMP, ...ramps[palette], ...part } } })),
  setView: (view) => set({ view }),
  setLanes: (lanes) => {
    localStorage.setItem(LANES, JSON.stringify(lanes));
    set({ lanes });
  },
  setCompare: (compare) => set({ compare }),
}));

export const EMPTY_RECIPE: RampRecipe = {
  kind: "ramp",
  stops: [],
  steps: 9,
  space: "oklab",
  hue: "shorter",
  curve: "straight",
  spacing: "position",
  gamut: "reduce",
  closed: false,
  purpose: "any",
  numbers: {},
  measure: "oklab",
};

export const EMPTY_RAMP: RampState = {
  recipe: EMPTY_RECIPE,
  kept: null,
  drawn: "continuous",
  stop: null,
  follows: true,
};

export const STRAIGHT = { kind: "linear", numbers: [] };

/** A stop as the server describes one, with nothing left out. */
export function wholeStop(stop: Partial<RampStop>): RampStop {
  return {
    swatch: null,
    text: null,
    color: null,
    position: null,
    midpoint: 0.5,
    easing: STRAIGHT,
    ...stop,
  };
}

export function swatchStops(ids: readonly string[]): RampStop[] {
  return ids.map((swatch) => wholeStop({ swatch }));
}

/** A text that two recipes share where they are the same ramp, however they were written. */
export function sameness(recipe: RampRecipe): string {
  const { stops, ...rest } = { ...EMPTY_RECIPE, ...recipe };
  const settings = Object.entries(rest).sort(([a], [b]) => a.localeCompare(b));
  const rows = stops.map((stop) => {
    const { swatch, text, color, position, midpoint, easing } = wholeStop(stop);
    const bends = easing.kind === "linear" ? [] : [easing.kind, ...(easing.numbers ?? [])];
    return [swatch, text, color && [color.space, color.coords, color.alpha], position, midpoint, bends];
  });
  return JSON.stringify([settings, rows]);
}

/** The lanes that stand: those wanted that exist, else the usual ones. */
export function lanesShown(wanted: string[] | null, every: { id: string; is_shown: boolean }[]): string[] {
  const known = (wanted ?? []).filter((id) => every.some((lane) => lane.id === id));
  return known.length > 0 ? known : every.filter((lane) => lane.is_shown).map((lane) => lane.id);
}
