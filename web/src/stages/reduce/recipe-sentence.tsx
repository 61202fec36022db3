import { useQueryClient } from "@tanstack/react-query";
import { useRef } from "react";
import { lookInto } from "../../api/files";
import { ask } from "../../api/queries";
import { canBeTuned } from "../../api/recipe";
import type { Recipe } from "../../api/types";
import { inWords } from "../../api/words";
import { useCommands, useMenus, useShown } from "../../bench/context";
import { ShelfPalettes } from "../../bench/other-palette";
import { Patch } from "../../lens/patch";
import { useScreen } from "../../shell/store";
import { Button } from "../../ui/button";
import { ChoiceWord, NumberWord, PanelWord, Sentence } from "../../ui/sentence";
import { DetailsWord } from "./details-word";
import { Piece } from "./piece";

export type Change = (part: Partial<Recipe>) => void;

const MOST_LISTED = 1024;
const TUNINGS = [
  {
    id: "tuned",
    label: "tuned to it",
    use: "Chosen for what the dither mixes of them: from a little way off, eight look like sixteen. Single pixels differ more.",
  },
  {
    id: "untuned",
    label: "as chosen",
    use: "Each near the pixels it stands for, as without a dither: calmer close up, paler and coarser from afar.",
  },
];
const DEPTHS = ["3-3-2", "4-4-4", "5-5-5", "5-6-5", "6x6x6", "2x2x2"];

/** Locked swatches, and solid colors that must be there. */
function KeepingWord({ recipe, onChange }: { recipe: Recipe; onChange: Change }) {
  const shown = useShown();
  const { operate } = useCommands();
  const locked = shown.filter((swatch) => swatch.locked);
  const selected = useScreen((screen) => screen.selected);
  const solid = recipe.solid.length ? `, solid ${recipe.solid.join(" and ")}` : "";
  const turn = (name: "black" | "white") =>
    onChange({
      solid: recipe.solid.includes(name)
        ? recipe.solid.filter((other) => other !== name)
        : [...recipe.solid, name],
    });
  return (
    <PanelWord
      label="Locked swatches"
      text={`${locked.length === 0 ? "none" : locked.length} locked${solid}`}
    >
      {locked.length === 0 ? (
        <p className="mb-2">
          No swatch is locked. A locked swatch stays just as it is in the next reduction.
        </p>
      ) : (
        <ul className="m-0 mb-2 grid max-h-52 list-none gap-1 overflow-y-auto p-0">
          {locked.map((swatch) => (
            <li key={swatch.id} className="flex items-center gap-2">
              <Patch className="size-5 shrink-0" color={swatch.hex} />
              <span className="min-w-0 grow truncate">{swatch.name}</span>
              <button
                type="button"
                className="text-small font-semibold hover:underline"
                onClick={() => void operate({ kind: "lock_swatches", ids: [swatch.id], locked: false })}
              >
                Unlock
              </button>
            </li>
          ))}
        </ul>
      )}
      <Button
        disabled={selected.length === 0}
        onClick={() => void operate({ kind: "lock_swatches", ids: selected, locked: true })}
      >
        Lock the selected {selected.length === 1 ? "swatch" : `${selected.length} swatches`}
      </Button>
      <div className="mt-3 flex gap-4 border-t border-line pt-2">
        {(["black", "white"] as const).map((name) => (
          <label key={name} className="flex items-center gap-2">
            <input
              type="checkbox"
              className="accent-ink"
              checked={recipe.solid.includes(name)}
              onChange={() => turn(name)}
            />
            solid {name}
          </label>
        ))}
      </div>
    </PanelWord>
  );
}

/** The list that colors are taken from: any palette of the shelf, or a file. */
function ListWord({ recipe, onChange }: { recipe: Recipe; onChange: Change }) {
  const queries = useQueryClient();
  const say = useScreen((screen) => screen.say);
  const file = useRef<HTMLInputElement>(null);
  const take = async (id: string) => {
    const found = await queries.fetchQuery(ask.palette(id));
    const opaque = found.swatches.filter((swatch) => swatch.alpha > 0);
    onChange({
      listed: opaque.map((swatch) => swatch.hex.slice(0, 7)).slice(0, MOST_LISTED),
      list_name: found.name,
    });
  };
  const takeFile = async (chosen: File) => {
    try {
      const reading = (await lookInto(chosen, 64)).readings[0];
      if (!reading) return;
      const opaque = reading.swatches.filter((swatch) => swatch.alpha > 0);
      onChange({
        listed: opaque.map((swatch) => swatch.hex.slice(0, 7)).slice(0, MOST_LISTED),
        list_name: chosen.name.slice(0, 200),
      });
    } catch (error) {
      say(inWords(error), { kind: "wrong" });
    }
  };
  return (
    <PanelWord label="The list" text={recipe.list_name || "a palette of the shelf"}>
      <p className="mb-2 flex items-center gap-2 text-small text-quiet">
        <span className="grow">Colors are taken from</span>
        <Button onClick={() => file.current?.click()}>A file …</Button>
        <input
          ref={file}
          type="file"
          aria-label="File with the list"
          className="hidden"
          onChange={(event) => {
            const chosen = event.target.files?.[0];
            event.target.value = "";
            if (chosen) void takeFile(chosen);
          }}
        />
      </p>
      <ShelfPalettes onChoose={({ id }) => void take(id)} />
    </PanelWord>
  );
}

/** The recipe of the reduction; every underlined word is a control. */
export function RecipeSentence({ recipe, onChange }: { recipe: Recipe; onChange: Change }) {
  const menus = useMenus();
  const chooser = menus.choosers.find((entry) => entry.id === recipe.chooser);
  const dither = menus.dithers.find((entry) => entry.id === recipe.dither);
  // Choices are shown at the usual search, whatever was searched for last.
  const shownAs: Recipe = { ...recipe, search: "usual" };
  const asItIs = chooser?.needs === "palette";
  return (
    <Sentence label="Recipe of the reduction">
      {asItIs ? "Paint with" : "Reduce"}{" "}
      {!chooser?.sets_count && (
        <>
          to{" "}
          <NumberWord
            label="Number of colors"
            value={recipe.colors}
            min={2}
            max={menus.most_colors}
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
          , keeping <KeepingWord recipe={recipe} onChange={onChange} />
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
        </span>
      )}
      , the rest{" "}
      <span className="whitespace-nowrap">
        <DetailsWord recipe={recipe} onChange={onChange} />.
      </span>
    </Sentence>
  );
}
