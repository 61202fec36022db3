import { useEffect, useRef } from "react";
import type { Operation } from "../../api/client";
import { useBench } from "../../bench/context";

type Derive = Extract<Operation, { kind: "derive_swatches" }>;
export type Derivation = Derive["derivation"];

/** Shows what a derivation would add, as a draft of the bench; null shows nothing. Gone with the view. */
export function useDerivation(derivation: Derivation | null, group = "") {
  const { palette, setDraft, discard, preview, problem } = useBench();
  const wish = JSON.stringify([derivation, group]);
  const kept = useRef({ wish: "", sentence: "" });
  // biome-ignore lint/correctness/useExhaustiveDependencies: the wish's text stands for the wish
  useEffect(() => {
    // What has just been added is not offered a second time, until something of it is changed.
    if (kept.current.wish === wish && kept.current.sentence === palette.label) return;
    if (derivation) setDraft({ kind: "step", operation: { kind: "derive_swatches", derivation, group } });
    else discard();
  }, [wish, palette.revision]);
  useEffect(() => discard, [discard]);
  const proposal = preview?.kind === "step" ? preview.proposal : null;
  if (proposal) kept.current = { wish, sentence: proposal.sentence };
  const known = new Set(palette.swatches.map((swatch) => swatch.id));
  const added = proposal ? proposal.swatches.filter((swatch) => !known.has(swatch.id)) : [];
  return { proposal, added, problem };
}
