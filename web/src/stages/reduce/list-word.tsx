import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { lookInto } from "../../api/files";
import { ask } from "../../api/queries";
import type { Recipe } from "../../api/types";
import { inWords } from "../../api/words";
import { useBench, useMenus } from "../../bench/context";
import { NO_LINES, useLines } from "../../bench/lines";
import { Marked } from "../../bench/lines-shown";
import { ShelfPalettes } from "../../bench/other-palette";
import { useScreen } from "../../shell/store";
import { Button } from "../../ui/button";
import { PanelWord } from "../../ui/sentence";
import type { Change } from "./recipe-sentence";

const MOST_LISTED = 1024;
const FEWEST_COLORS = 2;
const MOST_COLORS = 256;
const MOST_WRONG = 6;
const SETTLE_MS = 200;

/**
 * What a recipe becomes with another list, each color once: as many colors as before, as far as it holds them, or all of them where
 * all were taken. An empty list, as one is for a moment while it is typed anew, and a chooser that takes all leave the number alone.
 */
export function withList(recipe: Recipe, hexes: string[], name: string, takesAll = false): Partial<Recipe> {
  const listed = [...new Set(hexes.map((hex) => hex.slice(0, 7)))].slice(0, MOST_LISTED);
  if (takesAll || listed.length === 0) return { listed, list_name: name };
  const all = recipe.listed.length > 0 && recipe.colors >= recipe.listed.length;
  const count = Math.min(listed.length, all ? MOST_COLORS : recipe.colors);
  return { listed, list_name: name, colors: Math.max(count, FEWEST_COLORS) };
}

/** Whether the chooser of a recipe takes every color of its list. */
function useTakesAll(recipe: Recipe) {
  return useMenus().choosers.find((entry) => entry.id === recipe.chooser)?.sets_count ?? false;
}

/** A list that is typed or pasted where it is chosen: the recipe follows what is understood of it. */
function TypedList({ recipe, onChange }: { recipe: Recipe; onChange: Change }) {
  const takesAll = useTakesAll(recipe);
  const bench = useBench();
  const text = useLines((state) => state.palettes[bench.id]?.list) ?? NO_LINES.list;
  const put = useLines((state) => state.put);
  // Null until something is typed: a list of before is not taken again by opening this.
  const [settled, setSettled] = useState<string | null>(null);
  const touched = useRef(false);
  const parsed = useQuery(ask.parsed(settled?.trim() ?? ""));
  useEffect(() => {
    if (!touched.current || settled === text) return;
    const timer = setTimeout(() => setSettled(text), SETTLE_MS);
    return () => clearTimeout(timer);
  }, [text, settled]);
  const taken = useRef<string | null>(null);
  const latest = useRef({ recipe, onChange, takesAll });
  latest.current = { recipe, onChange, takesAll };
  const colors = settled?.trim() === "" ? [] : parsed.data?.colors;
  useEffect(() => {
    if (settled === null || settled === taken.current || !colors) return;
    taken.current = settled;
    const hexes = colors.map((color) => color.hex);
    latest.current.onChange(withList(latest.current.recipe, hexes, "", latest.current.takesAll));
  }, [settled, colors]);
  const wrong = settled?.trim() ? (parsed.data?.wrong ?? []) : [];
  return (
    <div className="mb-3">
      <label className="mb-1 block text-small text-quiet" htmlFor="typed-list">
        Type or paste the colors
      </label>
      <textarea
        id="typed-list"
        rows={4}
        value={text}
        spellCheck={false}
        placeholder={"Lamp core #ffcc66\n#102030 #405060"}
        className="w-full resize-y rounded-sm border border-ink bg-raised px-2 py-1 placeholder:text-quiet"
        onChange={(event) => {
          touched.current = true;
          put(bench.id, () => ({ list: event.target.value }));
        }}
      />
      {wrong.length > 0 && (
        <ul aria-label="Not understood" className="m-0 list-none p-0 text-small">
          {wrong.slice(0, MOST_WRONG).map((line, place) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: the same line may stand twice
            <li key={place}>
              <Marked parts={line.parts} /> <span className="text-quiet">{line.why}</span>
            </li>
          ))}
          {wrong.length > MOST_WRONG && <li>and {wrong.length - MOST_WRONG} more</li>}
        </ul>
      )}
    </div>
  );
}

/** The list that colors are taken from: any palette of the shelf, or a file. */
export function ListWord({ recipe, onChange }: { recipe: Recipe; onChange: Change }) {
  const takesAll = useTakesAll(recipe);
  const queries = useQueryClient();
  const say = useScreen((screen) => screen.say);
  const file = useRef<HTMLInputElement>(null);
  const take = async (id: string) => {
    const found = await queries.fetchQuery(ask.palette(id));
    const opaque = found.swatches.filter((swatch) => swatch.alpha > 0);
    const hexes = opaque.map((swatch) => swatch.hex);
    onChange(withList(recipe, hexes, found.name, takesAll));
  };
  const takeFile = async (chosen: File) => {
    try {
      const reading = (await lookInto(chosen, 64)).readings[0];
      if (!reading) return;
      const opaque = reading.swatches.filter((swatch) => swatch.alpha > 0);
      const hexes = opaque.map((swatch) => swatch.hex);
      onChange(withList(recipe, hexes, chosen.name.slice(0, 200), takesAll));
    } catch (error) {
      say(inWords(error), { kind: "wrong" });
    }
  };
  const count = recipe.listed.length;
  const these = `these ${count}${recipe.list_name ? ` of “${recipe.list_name}”` : " colors"}`;
  return (
    <PanelWord label="The list" text={count ? these : "a list that is still empty"}>
      <TypedList recipe={recipe} onChange={onChange} />
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
