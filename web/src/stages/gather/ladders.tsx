import { useState } from "react";
import { DraftBar } from "../../bench/draft-bar";
import { Patch } from "../../lens/patch";
import { useScreenParts } from "../../shell/store";
import { ChoiceWord, NumberWord, Sentence } from "../../ui/sentence";
import { AddedChips } from "./chips";
import { type Derivation, useDerivation } from "./use-derivation";

const KINDS = [
  { id: "lightness", label: "grays by even lightness", use: "Equal steps to the eye, from white to black." },
  { id: "black", label: "grays by percent of black", use: "As printers name them: K 25, K 50, K 75." },
  { id: "tints", label: "tints", use: "Even steps from each selected swatch toward white." },
  { id: "shades", label: "shades", use: "Toward black." },
  { id: "tones", label: "tones", use: "Toward the gray of the same lightness." },
  { id: "softened", label: "softened copies", use: "As they look at an opacity over the ground color." },
];

/** Grays, tints, shades, tones and softened copies. */
export function LaddersView() {
  const { selected, ground } = useScreenParts("selected", "ground");
  const [kind, setKind] = useState("lightness");
  const [count, setCount] = useState(9);
  const [opacity, setOpacity] = useState(50);
  const isGray = kind === "lightness" || kind === "black";
  const derivation: Derivation | null = isGray
    ? { kind: "grays", by: kind as "lightness" | "black", count: Math.max(2, count), ends: true }
    : selected.length === 0
      ? null
      : kind === "softened"
        ? { kind: "softened", ids: selected, ground: { text: ground }, opacity }
        : {
            kind: "tints",
            ids: selected,
            toward: kind as "tints" | "shades" | "tones",
            count: Math.min(count, 32),
          };
  const { added, proposal, problem } = useDerivation(derivation);
  return (
    <div className="flex min-h-0 grow flex-col">
      <Sentence label="Recipe of the ladder">
        Add{" "}
        {kind !== "softened" && (
          <>
            <NumberWord
              label="Steps"
              value={count}
              min={isGray ? 2 : 1}
              max={32}
              unit={() => ""}
              hint={isGray ? "Grays in all, white and black included." : "Steps of each selected swatch."}
              onChange={setCount}
            />{" "}
          </>
        )}
        <ChoiceWord label="What is added" value={kind} choices={KINDS} onChange={setKind} />
        {!isGray && (
          <>
            {" "}
            of{" "}
            <strong>
              {selected.length === 1 ? "the selected swatch" : `${selected.length} selected swatches`}
            </strong>
          </>
        )}
        {kind === "softened" && (
          <>
            {" "}
            at{" "}
            <NumberWord
              label="Opacity"
              value={opacity}
              min={0}
              max={100}
              unit={() => "%"}
              hint="How much of the color is seen; the rest is the ground. Set the ground in the readout."
              onChange={setOpacity}
            />{" "}
            over <Patch className="inline-block h-4 w-6 align-middle" color={ground} title={ground} />
          </>
        )}
        .
      </Sentence>
      <DraftBar canKeep={Boolean(proposal?.changes)} label={`Add ${added.length || ""}`.trim()}>
        {problem ? (
          <span role="alert" className="font-semibold text-ink">
            {problem}
          </span>
        ) : (
          `${added.length} new swatches at the end of the strip`
        )}
      </DraftBar>
      <div className="min-h-0 overflow-y-auto pt-2">
        <AddedChips swatches={added} label="New swatches" />
      </div>
    </div>
  );
}
