import { useEffect, useState } from "react";
import { useBench } from "../../bench/context";
import { useScreen } from "../../shell/store";
import { Band } from "../../ui/chips";
import { DraftBar, Figure } from "../../ui/draft-bar";
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

/** Sort the selection or everything, seen before it is done. */
export function SortView() {
  const { palette, menus, preview, setDraft, discard, problem } = useBench();
  const selected = useScreen((screen) => screen.selected);
  const [among, setAmong] = useState(selected.length > 1 ? "selected" : "all");
  const [keys, setKeys] = useState<string[]>(menus.sort_keys.map((key) => key.id));
  const [way, setWay] = useState("up");
  const ids = among === "selected" && selected.length > 1 ? selected : null;
  const wish = JSON.stringify([ids, keys, way]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the wish's text stands for the wish
  useEffect(() => {
    setDraft({
      kind: "step",
      operation: { kind: "sort_swatches", ids, keys, descending: way === "down" },
    });
  }, [wish, palette.revision]);
  useEffect(() => discard, [discard]);
  const proposal = preview?.kind === "step" ? preview.proposal : null;
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
        by{" "}
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
        , <ChoiceWord label="Direction" value={way} choices={WAYS} onChange={setWay} />.
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
          <h3 className="mb-1.5 text-[13px] text-quiet">As it is</h3>
          <Band swatches={palette.swatches} label="The palette as it is" height="fill" />
        </div>
        <div className="flex min-h-0 flex-col">
          <h3 className="mb-1.5 text-[13px] text-quiet">Sorted</h3>
          <Band swatches={after} label="The palette sorted" height="fill" />
        </div>
      </div>
    </>
  );
}
