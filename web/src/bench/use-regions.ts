import { useMemo } from "react";
import type { Regions } from "../picture/picture-area";
import { type Indexed, swatchesWithin } from "../picture/regions";
import { useScreen } from "../shell/store";
import { useShown } from "./context";
import { pressSeveral, pressSwatch } from "./select";

const NONE: ReadonlySet<string> = new Set();

/** The swatches of the strip, to be selected in a picture that they paint. */
export function useRegions(source: Indexed | null): Regions | null {
  const shown = useShown();
  const selection = useScreen((screen) => screen.selection);
  const isPicked = useScreen((screen) => screen.isPicked);
  return useMemo(
    () =>
      source && {
        source,
        outlined: isPicked ? selection : NONE,
        onPlace: (id, modifiers) => {
          if (id) pressSwatch(shown, id, modifiers);
        },
        onArea: (counts, modifiers) => pressSeveral(swatchesWithin(counts, shown), modifiers),
        isSelected: (id) => selection.has(id),
        countOf: (counts) => swatchesWithin(counts, shown).length,
      },
    [source, shown, selection, isPicked],
  );
}
