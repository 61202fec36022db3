import { canBeTuned } from "../../api/recipe";
import type { Recipe } from "../../api/types";
import { useMenus } from "../../bench/context";
import { ChoiceWord, NumberWord, Sentence } from "../../ui/sentence";
import { DetailsWord } from "./details-word";
import { GrainWord } from "./grain-word";
import { KeepingWord } from "./keeping-word";
import { ListWord } from "./list-word";
import { Piece } from "./piece";

export type Change = (part: Partial<Recipe>) => void;

const TUNINGS = [
  {
    id: "tuned",
    label: "tuned to it",
    use: "Chosen for what the dither mixes of them: from a little way off, eight look like sixteen. Close up it is grainier.",
  },
  {
    id: "untuned",
    label: "as chosen",
    use: "Each near the pixels it stands for, as without a dither: calmer close up, paler and coarser from afar.",
  },
];
const DEPTHS = ["3-3-2", "4-4-4", "5-5-5", "5-6-5", "6x6x6", "2x2x2"];

/** The recipe of the reduction; every underlined word is a control. */
export function RecipeSentence({
  recipe,
  onChange,
  onPick,
}: {
  recipe: Recipe;
  onChange: Change;
  /** The picture is to become the picker of colors that are kept. */
  onPick: () => void;
}) {
  const menus = useMenus();
  const chooser = menus.choosers.find((entry) => entry.id === recipe.chooser);
  const dither = menus.dithers.find((entry) => entry.id === recipe.dither);
  // Choices are shown at the usual search, whatever was searched for last.
  const shownAs: Recipe = { ...recipe, search: "usual" };
  const asItIs = chooser?.needs === "palette";
  const listed = chooser?.needs === "list" ? recipe.listed.length : 0;
  const most = listed ? Math.max(2, Math.min(listed, menus.most_colors)) : menus.most_colors;
  return (
    <Sentence label="Recipe of the reduction">
      {asItIs ? "Paint with" : "Reduce"}{" "}
      {!chooser?.sets_count && (
        <>
          to{" "}
          <NumberWord
            label="Number of colors"
            value={Math.min(recipe.colors, most)}
            min={2}
            max={most}
            unit={(count) => (count === 1 ? "color" : "colors")}
            hint="Type a number, or step with ↑ and ↓, by ten with Shift. A clear pixel takes one index of its own."
            onChange={(colors) => onChange({ colors })}
          />{" "}
        </>
      )}
      {!asItIs && "chosen by "}
      <ChoiceWord
        label="How colors are chosen"
        value={recipe.chooser}
        choices={menus.choosers}
        picture={(id) => <Piece recipe={{ ...shownAs, chooser: id }} />}
        onChange={(id) => onChange({ chooser: id })}
      />
      {chooser?.needs === "list" && (
        <>
          {" "}
          from <ListWord recipe={recipe} onChange={onChange} />
        </>
      )}
      {chooser?.needs === "depth" && (
        <>
          {" "}
          of{" "}
          <ChoiceWord
            label="Channel depth"
            value={recipe.depth}
            choices={[...new Set([...DEPTHS, recipe.depth])].map((depth) => ({
              id: depth,
              label: depth,
              use: depth.includes("x") ? "levels of red, green, blue" : "bits of red, green, blue",
            }))}
            onChange={(depth) => onChange({ depth })}
          />
        </>
      )}
      {!chooser?.sets_count && (
        <>
          {" "}
          with{" "}
          <span className="whitespace-nowrap">
            accents protected{" "}
            <NumberWord
              label="Accent protection in percent"
              value={recipe.accent}
              min={0}
              max={100}
              unit={() => "%"}
              hint="Small saturated areas count as if they were larger, so that an eye-spot keeps its color."
              onChange={(accent) => onChange({ accent })}
            />
          </span>
        </>
      )}
      {!asItIs && (
        <>
          , keeping <KeepingWord recipe={recipe} onChange={onChange} onPick={onPick} />
        </>
      )}
      , dithered{" "}
      <ChoiceWord
        label="Dither"
        value={recipe.dither}
        choices={menus.dithers}
        picture={(id) => <Piece recipe={{ ...shownAs, dither: id }} />}
        onChange={(id) => onChange({ dither: id })}
      />
      {dither?.has_strength && (
        <>
          {" "}
          at{" "}
          <NumberWord
            label="Dither strength in percent"
            value={recipe.strength}
            min={0}
            max={100}
            unit={() => "%"}
            hint="How much of the difference is spread: less keeps flats calmer, more keeps glows smoother."
            onChange={(strength) => onChange({ strength })}
          />
        </>
      )}
      {canBeTuned(recipe, menus) && (
        <span className="whitespace-nowrap">
          , colors{" "}
          <ChoiceWord
            label="What the colors are chosen for"
            value={recipe.tune ? "tuned" : "untuned"}
            choices={TUNINGS}
            picture={(id) => <Piece recipe={{ ...shownAs, tune: id === "tuned" }} />}
            onChange={(id) => onChange({ tune: id === "tuned" })}
          />
          {recipe.tune && (
            <>
              {" "}
              with <GrainWord recipe={recipe} shownAs={shownAs} onChange={onChange} /> grain
            </>
          )}
        </span>
      )}
      , the rest{" "}
      <span className="whitespace-nowrap">
        <DetailsWord recipe={recipe} onChange={onChange} />.
      </span>
    </Sentence>
  );
}
