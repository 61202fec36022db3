import { Fragment, memo, useState } from "react";
import type { RampRecipe, RampStop } from "../../api/types";
import { useShown } from "../../bench/context";
import { TextButton } from "../../ui/button";
import { ChoiceWord, NumberWord, PanelWord, Sentence } from "../../ui/sentence";
import { StopWord } from "./stop-word";
import { type RampWork, sameRamp } from "./use-ramp";

const MOST_NAMED = 5;
const CONTINUOUS = "continuous";

/** How many steps, or none. */
function StepsWord({ work }: { work: RampWork }) {
  const { recipe, revise, menus } = work;
  if (recipe.steps == null)
    return (
      <>
        {" "}
        <ChoiceWord
          label="Steps"
          value={CONTINUOUS}
          choices={[
            { id: CONTINUOUS, label: "without steps", use: "Every shade, as a gradient is painted." },
            { id: "steps", label: "in steps", use: "Exactly so many colors, as baking gives them." },
          ]}
          onChange={(id) => revise({ steps: id === CONTINUOUS ? null : 9 })}
        />
      </>
    );
  return (
    <>
      {" "}
      in{" "}
      <NumberWord
        label="Number of steps"
        value={recipe.steps}
        min={2}
        max={menus.most_steps}
        unit={() => "steps"}
        hint="As many swatches as baking gives. Type a number, or step with ↑ and ↓."
        onChange={(steps) => revise({ steps })}
      />
    </>
  );
}

/** What else can be said: the gamut rule, closing, no steps, and changes of all stops at once. */
function MoreWord({ work }: { work: RampWork }) {
  const { recipe, revise, menus, edit } = work;
  const [count, setCount] = useState(2);
  const gamut = menus.gamuts.find((entry) => entry.id === recipe.gamut);
  const said = [
    ...(recipe.gamut === "reduce" ? [] : [gamut?.label ?? ""]),
    ...(recipe.closed ? ["closed"] : []),
  ];
  return (
    <PanelWord label="More about the ramp" text={said.length ? said.join(", ") : "more"}>
      <fieldset className="m-0 mb-3 border-0 p-0">
        <legend className="mb-1 text-small text-quiet">Colors outside sRGB are shown with</legend>
        {menus.gamuts.map((entry) => (
          <label key={entry.id} className="flex min-h-7 items-center gap-2" title={entry.use}>
            <input
              type="radio"
              name="gamut"
              className="accent-ink"
              checked={recipe.gamut === entry.id}
              onChange={() => revise({ gamut: entry.id })}
            />
            {entry.label} <span className="text-small text-quiet">{entry.use}</span>
          </label>
        ))}
      </fieldset>
      <label className="flex min-h-7 items-center gap-2">
        <input
          type="checkbox"
          className="accent-ink"
          checked={recipe.closed ?? false}
          onChange={(event) => revise({ closed: event.target.checked })}
        />
        It goes round
        <span className="text-small text-quiet">the steps do not repeat the first color</span>
      </label>
      <label className="flex min-h-7 items-center gap-2">
        <input
          type="checkbox"
          className="accent-ink"
          checked={recipe.steps == null}
          onChange={(event) => revise({ steps: event.target.checked ? null : 9 })}
        />
        Without steps
      </label>
      <p className="mt-2 border-t border-line pt-2 text-small text-quiet">All stops at once</p>
      <div className="-ml-1.5 flex flex-wrap gap-x-1">
        {menus.edits.map((entry) => (
          <span key={entry.id} className="whitespace-nowrap">
            <TextButton title={entry.use} onClick={() => void edit(entry.id, { count })}>
              {entry.label}
            </TextButton>
            {entry.counts && (
              <NumberWord
                label="How many times"
                value={count}
                min={2}
                max={16}
                unit={() => "times"}
                hint="One after the other, with a hard edge where the ends differ."
                onChange={setCount}
              />
            )}
          </span>
        ))}
      </div>
    </PanelWord>
  );
}

/** The recipe sentence of a ramp: drawn anew with the recipe, or when its stops get other names. */
export const RampSentence = memo(function RampSentence({ work }: { work: RampWork }) {
  const shown = useShown();
  const { recipe, revise, menus, drawing } = work;
  const { stops } = recipe;
  const put = (next: RampStop[]) => revise({ stops: next } satisfies Partial<RampRecipe>);
  const replace = (place: number, stop: RampStop) =>
    put(stops.map((other, index) => (index === place ? stop : other)));
  const add = (stop: RampStop) => {
    const last = stops.at(-1);
    const ended = last?.position === 1 ? [...stops.slice(0, -1), { ...last, position: null }] : stops;
    put([...ended, stop]);
  };
  const nameOf = (stop: RampStop, place: number) =>
    shown.find((swatch) => swatch.id === stop.swatch)?.name ||
    drawing?.stops[place]?.name ||
    stop.text ||
    "a color";
  const lane = menus.lanes.find(
    (entry) => entry.space === recipe.space && (entry.hue === recipe.hue || entry.id === recipe.space),
  );
  const isReady = stops.length >= 2;
  const newStop = (
    <StopWord
      key={`add-${stops.length}`}
      label="Add a stop"
      text={stops.length === 0 ? "a first color" : stops.length === 1 ? "a second color" : "+"}
      stop={null}
      onChange={add}
    />
  );
  const named = stops.length <= MOST_NAMED ? stops.map((_, place) => place) : [0, stops.length - 1];
  return (
    <Sentence label="Recipe of the ramp">
      {named.map((place) => (
        <Fragment key={`${place}-${stops.length}`}>
          {place === 0
            ? "Ramp from"
            : place === stops.length - 1
              ? stops.length > MOST_NAMED
                ? `through ${stops.length - 2} colors to`
                : "to"
              : place === 1
                ? "through"
                : "and"}{" "}
          <StopWord
            label={`Stop ${place + 1}`}
            text={nameOf(stops[place] as RampStop, place)}
            stop={stops[place] as RampStop}
            onChange={(next) => replace(place, next)}
            {...(stops.length > 2
              ? { onRemove: () => put(stops.filter((_, index) => index !== place)) }
              : {})}
          />{" "}
        </Fragment>
      ))}
      {!isReady && (
        <>
          {stops.length === 0 ? "Ramp from" : "to"} {newStop}
        </>
      )}
      {isReady && (
        <>
          {newStop}
          <StepsWord work={work} />, spaced{" "}
          <ChoiceWord
            label="Spacing"
            value={recipe.spacing ?? "position"}
            choices={menus.spacings}
            onChange={(spacing) => revise({ spacing })}
          />
          {recipe.spacing === "even" && (
            <>
              {" "}
              by{" "}
              <ChoiceWord
                label="Measure of difference"
                value={recipe.measure ?? "oklab"}
                choices={menus.measures}
                onChange={(measure) => revise({ measure })}
              />
            </>
          )}
          , in{" "}
          <ChoiceWord
            label="Interpolation space"
            value={lane?.id ?? ""}
            choices={menus.lanes}
            onChange={(id) => {
              const next = menus.lanes.find((entry) => entry.id === id);
              if (next) revise({ space: next.space, hue: next.hue });
            }}
          />
          , curve{" "}
          <ChoiceWord
            label="Curve"
            value={recipe.curve ?? "straight"}
            choices={menus.curves}
            onChange={(curve) => revise({ curve })}
          />
          , <MoreWord work={work} />.
        </>
      )}
    </Sentence>
  );
}, sameNames);

/** Whether a sentence would say the same. */
function sameNames(before: { work: RampWork }, after: { work: RampWork }) {
  const names = ({ work }: { work: RampWork }) => work.drawing?.stops.map((stop) => stop.name).join("\n");
  return sameRamp(before, after) && names(before) === names(after);
}
