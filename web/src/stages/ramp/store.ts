import { create } from "zustand";
import type { RampStop } from "../../api/client";

export type Drawn = "continuous" | "stepped";

export interface RampState {
  stops: RampStop[];
  steps: number;
  space: string;
  hue: string;
  drawn: Drawn;
}

/** The ramp being worked on at each bench; it lives as long as the page. */
export const useRamps = create<{
  ramps: Record<string, RampState>;
  set: (palette: string, part: Partial<RampState>) => void;
}>((set) => ({
  ramps: {},
  set: (palette, part) =>
    set(({ ramps }) => ({ ramps: { ...ramps, [palette]: { ...EMPTY_RAMP, ...ramps[palette], ...part } } })),
}));

export const EMPTY_RAMP: RampState = {
  stops: [],
  steps: 9,
  space: "oklab",
  hue: "shorter",
  drawn: "continuous",
};

export function swatchStops(ids: readonly string[]): RampStop[] {
  return ids.map((swatch) => ({ swatch, text: null, position: null }));
}
