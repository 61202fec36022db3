import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { ask } from "../../api/queries";
import type { Operation } from "../../api/types";
import { useMenus, usePalette } from "../../bench/context";
import { DraftBar, Figure } from "../../bench/draft-bar";
import { useDraft } from "../../bench/use-draft";
import { Band } from "../../lens/chips";
import { useScreen } from "../../shell/store";
import { type Choice, ChoiceWord, Sentence } from "../../ui/sentence";

const NONE: Choice = { id: "", label: "nothing else", use: "The keys before decide alone." };
const WAYS: Choice[] = [
  {
    id: "up",
    label: "low first",
    use: "From dark to light, from dull to vivid, from pink round the circle.",
  },
  { id: "down", label: "high first", use: "The other way round." },
];

const HOW: Choice[] = [
  { id: "keys", label: "by", use: "By one measure, then by the next; all but the last count in steps." },
  {
    id: "smooth",
    label: "along the smoothest path",
    use: "Neighbors differ as little as may be: the shortest way through OKLab.",
  },
  {
    id: "step",
    label: "back to the order of",
    use: "An earlier step of the history, such as how the palette began.",
  },
];
const USUAL_KEYS = ["hue", "lightness", "chroma"];

/** Ends of a smooth path. */
function EndWord({
  label,
  value,
  onChange,
}: {
  label: string;
  value: string;
  onChange: (id: string) => void;
}) {
  const palette = usePalette();
  const choices = [
    { id: "", label: "any", use: "Whatever makes the path short." },
    ...palette.swatches
      .slice(0, 256)
      .map((swatch) => ({ id: swatch.id, label: swatch.name, use: swatch.hex })),
  ];
  return <ChoiceWord label={label} value={value} choices={choices} onChange={onChange} />;
}

/** A step of the history, whose order is wanted back. */
function StepWord({ value, onChange }: { value: number; onChange: (number: number) => void }) {
  const palette = usePalette();
  const steps = useQuery({
    ...ask.history(palette.id),
  });
  const choices = (steps.data ?? [])
    .filter((step) => !step.is_head)
    .map((step) => ({ id: String(step.number), label: `step ${step.number}`, use: step.label }));
  return (
    <ChoiceWord
      label="Step whose order is taken"
      value={String(value)}
      choices={choices.length ? choices : [{ id: "1", label: "step 1", use: "How the palette began." }]}
      onChange={(id) => onChange(Number(id))}
    />
  );
}

function operationOf(
  how: string,
  {
    ids,
    keys,
    way,
    first,
    last,
    order,
    step,
  }: {
    ids: string[] | null;
    keys: string[];
    way: string;
    first: string;
    last: string;
    order: string[] | null;
    step: number;
  },
): Operation | null {
  if (how === "smooth") return { kind: "smooth_order", ids, first: first || null, last: last || null };
  if (how === "step") return order && { kind: "take_order", ids: order, source: `step ${step}` };
  return { kind: "sort_swatches", ids, keys, descending: way === "down" };
}

/** Sort the selection or everything, seen before it is done. */
export function SortView() {
  const palette = usePalette();
  const menus = useMenus();
  const selected = useScreen((screen) => screen.selected);
  const [among, setAmong] = useState(selected.length > 1 ? "selected" : "all");
  const [how, setHow] = useState("keys");
  const [keys, setKeys] = useState<string[]>(USUAL_KEYS);
  const [way, setWay] = useState("up");
  const [first, setFirst] = useState("");
  const [last, setLast] = useState("");
  const [step, setStep] = useState(1);
  const ids = among === "selected" && selected.length > 1 && how !== "step" ? selected : null;
  const earlier = useQuery({
    ...ask.document(palette.id, step),
    enabled: how === "step",
  });
  const before = earlier.data?.swatches as { id: string }[] | undefined;
  const order = before?.map((swatch) => swatch.id) ?? null;
  const wish = JSON.stringify([how, ids, keys, way, first, last, order]);
  const { proposal, problem } = useDraft({
    operation: operationOf(how, { ids, keys, way, first, last, order, step }),
    said: wish,
  });
  const after = proposal?.swatches ?? palette.swatches;
  const moved = after.filter((swatch, place) => palette.swatches[place]?.id !== swatch.id).length;
  const setKey = (place: number, id: string) =>
    setKeys(
      id === ""
        ? keys.slice(0, place)
        : [...keys.slice(0, place), id, ...keys.slice(place + 1)].filter(
            (key, other, all) => other <= place || !all.slice(0, place + 1).includes(key),
          ),
    );
  return (
    <>
      <Sentence label="Recipe of the sort">
        Sort{" "}
        <ChoiceWord
          label="What is sorted"
          value={ids ? "selected" : "all"}
          choices={[
            { id: "all", label: "all swatches", use: "Each group by itself; groups stay where they are." },
            {
              id: "selected",
              label: `${selected.length} selected`,
              use: "Among the places they take. Select two or more in the strip.",
            },
          ]}
          onChange={setAmong}
        />{" "}
        <ChoiceWord label="How it is sorted" value={how} choices={HOW} onChange={setHow} />
        {how === "step" && (
          <>
            {" "}
            <StepWord value={step} onChange={setStep} />
          </>
        )}
        {how === "smooth" && (
          <>
            {" "}
            from <EndWord label="First of the path" value={first} onChange={setFirst} /> to{" "}
            <EndWord label="Last of the path" value={last} onChange={setLast} />
          </>
        )}
        {how === "keys" && (
          <>
            {" "}
            {[...keys, ...(keys.length < menus.sort_keys.length ? [""] : [])].map((key, place) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: keys are their places, and the last may be none
              <span key={place}>
                {place > 0 && ", then "}
                <ChoiceWord
                  label={`Sort key ${place + 1}`}
                  value={key}
                  choices={[
                    ...(place > 0 ? [NONE] : []),
                    ...menus.sort_keys.filter(
                      (entry) => entry.id === key || !keys.slice(0, place).includes(entry.id),
                    ),
                  ]}
                  onChange={(id) => setKey(place, id)}
                />
              </span>
            ))}
            , <ChoiceWord label="Direction" value={way} choices={WAYS} onChange={setWay} />
          </>
        )}
        .
      </Sentence>
      <DraftBar canKeep={Boolean(proposal?.changes)} label="Sort">
        {problem ? (
          <span role="alert" className="font-semibold text-ink">
            {problem}
          </span>
        ) : (
          <Figure name="swatches that move" value={`${moved} of ${after.length}`} />
        )}
      </DraftBar>
      <div className="grid min-h-0 grow grid-rows-2 gap-5 pb-2">
        <div className="flex min-h-0 flex-col">
          <h3 className="mb-1.5 text-small text-quiet">As it is</h3>
          <Band swatches={palette.swatches} label="The palette as it is" height="fill" />
        </div>
        <div className="flex min-h-0 flex-col">
          <h3 className="mb-1.5 text-small text-quiet">Sorted</h3>
          <Band swatches={after} label="The palette sorted" height="fill" />
        </div>
      </div>
    </>
  );
}
