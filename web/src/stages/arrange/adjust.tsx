import { useState } from "react";
import type { Operation } from "../../api/types";
import { useLinked, usePalette } from "../../bench/context";
import { DraftBar, Figure } from "../../bench/draft-bar";
import { useDraft } from "../../bench/use-draft";
import { Band } from "../../lens/chips";
import { useScreenParts } from "../../shell/store";
import { ChoiceWord, Sentence } from "../../ui/sentence";
import { Slider } from "../../ui/slider";
import { BeforeAndAfter } from "./before-after";

type Adjustment = Extract<Operation, { kind: "adjust_swatches" }>;
type Key = "hue_turn" | "chroma" | "lightness" | "contrast" | "curve" | "warmth" | "opacity";

const STILL: Record<Key, number> = {
  hue_turn: 0,
  chroma: 100,
  lightness: 0,
  contrast: 0,
  curve: 0,
  warmth: 0,
  opacity: 100,
};
const ROWS: [Key, string, number, number, string, string][] = [
  ["hue_turn", "Hue turned", -180, 180, "°", "Round the OKLCh circle, at held lightness"],
  ["chroma", "Chroma", 0, 200, " %", "Share of the chroma each color has"],
  ["lightness", "Lightness", -50, 50, "", "Everything lighter or darker"],
  ["contrast", "Contrast", -100, 100, "", "Lightness spread from its middle, or drawn together"],
  ["curve", "Middle tones", -100, 100, "", "Bent upward or down; black and white stay"],
  ["warmth", "Warm – cool", -100, 100, "", "Toward lamplight, or toward a clear night"],
  ["opacity", "Softened to", 0, 100, " %", "As seen at this opacity over the ground color"],
];

/** Change many colors at once, seen on the strip and in the picture before it is done. */
export function AdjustView() {
  const palette = usePalette();
  const link = useLinked();
  const { selected, ground } = useScreenParts("selected", "ground");
  const [among, setAmong] = useState(selected.length > 1 ? "selected" : "all");
  const [values, setValues] = useState(STILL);
  const ids = among === "selected" && selected.length > 0 ? selected : null;
  const wish = JSON.stringify([ids, values, ground]);
  const still = ROWS.every(([key]) => values[key] === STILL[key]);
  const operation: Adjustment = { kind: "adjust_swatches", ids, ground, ...values };
  const { proposal, problem } = useDraft({ operation: still ? null : operation, said: wish });
  // A step was kept, so the controls begin anew.
  const [kept, setKept] = useState(palette.revision);
  if (kept !== palette.revision) {
    setKept(palette.revision);
    setValues(STILL);
  }
  const after = proposal?.swatches ?? palette.swatches;
  return (
    <>
      <Sentence label="Recipe of the adjustment">
        Adjust{" "}
        <ChoiceWord
          label="What is adjusted"
          value={ids ? "selected" : "all"}
          choices={[
            { id: "all", label: "all swatches", use: "Locked swatches stay as they are." },
            { id: "selected", label: `${selected.length} selected`, use: "Select them in the strip." },
          ]}
          onChange={setAmong}
        />
        {proposal?.changes ? `: ${proposal.manner}.` : " by the sliders below."}
      </Sentence>
      <DraftBar canKeep={Boolean(proposal?.changes)} label="Adjust">
        {problem ? (
          <span role="alert" className="font-semibold text-ink">
            {problem}
          </span>
        ) : (
          <>
            <Figure
              name="swatches that change"
              value={`${after.filter((swatch, place) => swatch.hex !== palette.swatches[place]?.hex).length} of ${after.length}`}
            />
            {proposal?.change_mean !== null && proposal?.change_mean !== undefined && (
              <Figure
                name="picture changes by"
                value={`ΔE ${proposal.change_mean.toFixed(1)}`}
                title="Mean color difference over the linked picture's pixels"
              />
            )}
          </>
        )}
      </DraftBar>
      <div className={`grid min-h-0 grow gap-6 ${link ? "grid-cols-[minmax(0,4fr)_minmax(0,5fr)]" : ""}`}>
        <div className="min-h-0 overflow-y-auto pr-2">
          <div className="mb-4">
            <h3 className="mb-1 text-small text-quiet">As it is, and adjusted</h3>
            <Band swatches={palette.swatches} label="The palette as it is" height={44} />
            <Band swatches={after} label="The palette adjusted" height={44} />
          </div>
          <div className="grid grid-cols-[92px_1fr_60px_24px] items-center gap-x-3 text-small">
            {ROWS.map(([key, label, low, high, unit, use]) => (
              <div key={key} className="contents" title={use}>
                <span>{label}</span>
                <Slider
                  label={label}
                  value={values[key]}
                  min={low}
                  max={high}
                  step={1}
                  onChange={(next) => setValues({ ...values, [key]: next })}
                />
                <span className="flex items-baseline justify-end">
                  <input
                    type="number"
                    aria-label={`${label}, number`}
                    min={low}
                    max={high}
                    value={values[key]}
                    className="w-12 border-b border-line bg-transparent text-right"
                    onChange={(event) =>
                      setValues({
                        ...values,
                        [key]: Math.min(high, Math.max(low, Number(event.target.value) || 0)),
                      })
                    }
                  />
                  <span className="w-4 shrink-0 pl-0.5">{unit.trim()}</span>
                </span>
                <button
                  type="button"
                  aria-label={`${label} as it was`}
                  className={`text-small ${values[key] === STILL[key] ? "invisible" : "hover:font-bold"}`}
                  onClick={() => setValues({ ...values, [key]: STILL[key] })}
                >
                  ×
                </button>
              </div>
            ))}
          </div>
        </div>
        {link && (
          <div className="flex min-h-0 flex-col">
            <BeforeAndAfter />
          </div>
        )}
      </div>
    </>
  );
}
