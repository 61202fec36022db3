import type { Recipe } from "../../api/types";
import { useMenus } from "../../bench/context";
import { PanelWord } from "../../ui/sentence";
import { Slider } from "../../ui/slider";
import { Piece } from "./piece";
import type { Change } from "./recipe-sentence";

const FINEST = 100;

/** How fine tuned colors look close up. */
export function GrainWord({
  recipe,
  shownAs,
  onChange,
}: {
  recipe: Recipe;
  shownAs: Recipe;
  onChange: Change;
}) {
  const { grains } = useMenus();
  const name = grains.find((entry) => entry.grain === recipe.grain)?.label;
  const choose = (grain: number) => {
    if (grain !== recipe.grain) onChange({ grain });
  };
  return (
    <PanelWord label="Grain" text={name ?? `${recipe.grain} %`}>
      <p className="mb-2 text-small text-quiet">
        Colors far apart mix more, so that a picture is nearer from afar and its single dots stand out close
        up.
      </p>
      <fieldset className="m-0 mb-2 grid gap-2 border-0 p-0">
        <legend className="sr-only">Grain</legend>
        {grains.map(({ grain, label, use }) => (
          <label key={grain} className="flex items-center gap-3">
            <Piece recipe={{ ...shownAs, grain }} />
            <input
              type="radio"
              name="Grain"
              className="accent-ink"
              aria-label={label}
              checked={grain === recipe.grain}
              onChange={() => choose(grain)}
            />
            <span className="grow basis-40">
              <span className="block font-semibold">{label}</span>
              <span className="block text-small text-quiet">{use}</span>
            </span>
          </label>
        ))}
      </fieldset>
      <div className="flex items-center gap-3 text-small text-quiet">
        <span className="w-20 whitespace-nowrap">{recipe.grain} of 100</span>
        <Slider
          label="Grain, 0 free to 100 finest"
          value={recipe.grain}
          min={0}
          max={FINEST}
          step={1}
          onChange={choose}
        />
      </div>
    </PanelWord>
  );
}
