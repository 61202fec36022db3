import { useCommands, useDraftRecipe, useLinked, useMenus } from "../../bench/context";
import { PanelWord } from "../../ui/sentence";
import { Slider } from "../../ui/slider";

const NEAREST = 10;
const FARTHEST = 200;

/** How far off the picture is looked at: for the figure, and for what colors are tuned to. */
export function DistanceWord({ distance }: { distance: number }) {
  const menus = useMenus();
  const link = useLinked();
  const recipe = useDraftRecipe();
  const { tryRecipe } = useCommands();
  const name = menus.distances.find((entry) => entry.pixels_a_degree === distance)?.label;
  const choose = (pixels: number) => {
    if (!link || pixels === distance) return;
    const current = recipe ?? link.recipe;
    tryRecipe(link.picture.id, { ...current, search: "usual", distance: pixels });
  };
  return (
    <PanelWord label="Seen from" text={name ?? `${distance} pixels a degree`}>
      <p className="mb-2 text-small text-quiet">
        From a distance the eye mixes what lies close together. The figure compares what is then left of
        original and result; colors that are tuned are chosen for it.
      </p>
      <fieldset className="m-0 mb-2 grid gap-1 border-0 p-0">
        <legend className="sr-only">Seen from</legend>
        {menus.distances.map((entry) => (
          <label key={entry.pixels_a_degree} className="flex items-center gap-2">
            <input
              type="radio"
              name="Seen from"
              className="accent-ink"
              checked={entry.pixels_a_degree === distance}
              onChange={() => choose(entry.pixels_a_degree)}
            />
            <span className="grow">{entry.label}</span>
            <span className="text-small text-quiet">{entry.pixels_a_degree}</span>
          </label>
        ))}
      </fieldset>
      <div className="flex items-center gap-3 text-small text-quiet">
        <span className="whitespace-nowrap">{distance} pixels a degree</span>
        <Slider
          label="Pixels a degree"
          value={distance}
          min={NEAREST}
          max={FARTHEST}
          step={1}
          onChange={choose}
        />
      </div>
    </PanelWord>
  );
}
