import { useRef } from "react";
import type { Operation } from "../../api/types";
import { usePalette } from "../../bench/context";
import { useDraft } from "../../bench/use-draft";

type Derive = Extract<Operation, { kind: "derive_swatches" }>;
export type Derivation = Derive["derivation"];

/** Shows what a derivation would add, as a draft of the bench; null shows nothing. Gone with the view. */
export function useDerivation(derivation: Derivation | null, group = "") {
  const palette = usePalette();
  const said = JSON.stringify([derivation, group]);
  const kept = useRef({ said: "", sentence: "" });
  const { proposal, problem } = useDraft({
    operation: derivation && { kind: "derive_swatches", derivation, group },
    said,
    // What has just been added is not offered a second time, until something of it is changed.
    rests: kept.current.said === said && kept.current.sentence === palette.label,
  });
  if (proposal) kept.current = { said, sentence: proposal.sentence };
  const known = new Set(palette.swatches.map((swatch) => swatch.id));
  const added = proposal ? proposal.swatches.filter((swatch) => !known.has(swatch.id)) : [];
  return { proposal, added, problem };
}
