import { create } from "zustand";
import { persist } from "zustand/middleware";
import { keptIn } from "../../ui/kept";

/** What was delivered last of a palette: as what, which swatches, and how each format was set. */
export interface Delivered {
  format: string | null;
  among: string;
  /** Which variants: the id of one, `shown` for the one on the bench, `each` for a file of each, `joined` for all in one. */
  variant: string;
  options: Record<string, Record<string, string>>;
}

interface State {
  palettes: Record<string, Delivered>;
  put: (palette: string, part: Partial<Delivered>) => void;
}

export const NOTHING_DELIVERED: Delivered = { format: null, among: "all", variant: "shown", options: {} };
const MOST_REMEMBERED = 200;

/** Remembered for each palette, those that were delivered last; a new one begins clean. */
export const useDelivered = create<State>()(
  persist(
    (set) => ({
      palettes: {},
      put: (palette, part) =>
        set(({ palettes }) => {
          const { [palette]: before = NOTHING_DELIVERED, ...others } = palettes;
          const kept = Object.entries(others).slice(1 - MOST_REMEMBERED);
          return { palettes: { ...Object.fromEntries(kept), [palette]: { ...before, ...part } } };
        }),
    }),
    { name: "huvren.delivered", storage: keptIn(() => localStorage) },
  ),
);
