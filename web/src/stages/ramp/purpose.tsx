import { useQuery } from "@tanstack/react-query";
import { Fragment, useState } from "react";
import { repairRamp } from "../../api/ask-once";
import { ask } from "../../api/queries";
import type { Maker } from "../../api/types";
import { inWords } from "../../api/words";
import { useCommands, usePalette, useShown } from "../../bench/context";
import { useScreen } from "../../shell/store";
import { Button, TextButton } from "../../ui/button";
import { ChoiceWord, NumberWord, Sentence } from "../../ui/sentence";
import { CurveBox, CurveLine, OutsideMarks, Samples } from "./samples";
import { StopWord } from "./stop-word";
import { wholeStop } from "./store";
import type { RampWork } from "./use-ramp";

const MARKS: Record<string, string> = { holds: "○", look: "◐", fails: "●" };
const SAID: Record<string, string> = { holds: "holds", look: "look again", fails: "fails" };

interface Wish {
  maker: string;
  colors: string[] | null;
  numbers: Record<string, number>;
  steps: number;
  measure: string;
}

/** “Make a shading ramp from Wing brown with 7 steps …”: its words are the maker's colors and numbers. */
function MakerSentence({
  maker,
  wish,
  colors,
  work,
  onChange,
}: {
  maker: Maker;
  wish: Wish;
  colors: string[];
  work: RampWork;
  onChange: (part: Partial<Wish>) => void;
}) {
  const shown = useShown();
  const nameOf = (color: string) => {
    const swatch = shown.find((entry) => entry.id === color);
    return swatch ? swatch.name || swatch.hex : color;
  };
  const replace = (place: number, color: string) =>
    onChange({ colors: colors.map((other, at) => (at === place ? color : other)) });
  return (
    <Sentence label="Recipe for a purpose">
      Make a{" "}
      <ChoiceWord
        label="Purpose"
        value={maker.id}
        choices={work.menus.makers}
        onChange={(id) => {
          const next = work.menus.makers.find((entry) => entry.id === id);
          if (next) onChange({ maker: id, numbers: {}, steps: next.steps });
        }}
      />{" "}
      {colors.length > 0 && "from "}
      {colors.map((color, place) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: colors are their places
        <Fragment key={`${place}-${colors.length}`}>
          {place > 0 && `${maker.joined} `}
          <StopWord
            label={`Color ${place + 1}`}
            text={nameOf(color)}
            stop={wholeStop({ swatch: color })}
            onChange={(stop) => replace(place, stop.swatch ?? stop.text ?? color)}
            {...(colors.length > maker.fewest
              ? { onRemove: () => onChange({ colors: colors.filter((_, at) => at !== place) }) }
              : {})}
          />{" "}
        </Fragment>
      ))}
      {colors.length < maker.most && (
        <StopWord
          key={`more-${colors.length}`}
          label="Another color"
          text={colors.length < maker.fewest ? (colors.length ? "a second color" : "a color") : "+"}
          stop={null}
          onChange={(stop) => onChange({ colors: [...colors, stop.swatch ?? stop.text ?? ""] })}
        />
      )}{" "}
      in{" "}
      <NumberWord
        label="Steps of the made ramp"
        value={wish.steps}
        min={2}
        max={work.menus.most_steps}
        unit={() => "steps"}
        hint="As many swatches as baking gives."
        onChange={(steps) => onChange({ steps })}
      />
      {maker.is_even && (
        <>
          , even by{" "}
          <ChoiceWord
            label="Measure of difference"
            value={wish.measure}
            choices={work.menus.measures}
            onChange={(measure) => onChange({ measure })}
          />
        </>
      )}
      {maker.numbers.map((number) => {
        const scale = Math.round(1 / Math.min(number.step, 1));
        return (
          <Fragment key={number.id}>
            , {number.said}{" "}
            <NumberWord
              label={number.label}
              value={Math.round((wish.numbers[number.id] ?? number.usual) * scale)}
              min={Math.round(number.low * scale)}
              max={Math.round(number.high * scale)}
              scale={scale}
              unit={() => number.unit}
              hint={`${number.label}, ${number.low} to ${number.high}.`}
              onChange={(value) => onChange({ numbers: { ...wish.numbers, [number.id]: value / scale } })}
            />
          </Fragment>
        );
      })}
    </Sentence>
  );
}

/** What a ramp keeps of what it may be asked to keep, each with the place where it fails and what mends it. */
function Promises({ work }: { work: RampWork }) {
  const palette = usePalette();
  const say = useScreen((screen) => screen.say);
  const [every, setEvery] = useState(false);
  const check = useQuery(ask.rampCheck(palette, work.recipe, work.recipe.stops.length >= 2));
  const answers = check.data?.answers ?? [];
  const given = answers.filter((answer) => answer.given);
  const usual =
    given.length > 0
      ? given
      : answers.filter((answer) => ["monotone", "even", "gray", "vision"].includes(answer.id));
  const shown = every ? answers : usual;
  const mend = async (promise: string) => {
    try {
      // From here on it is the mended ramp and not that of the strip.
      work.set({ recipe: await repairRamp(palette.id, work.recipe, promise), stop: null, follows: false });
    } catch (error) {
      say(inWords(error), { kind: "wrong" });
    }
  };
  if (check.error)
    return (
      <p role="alert" className="text-small">
        {check.error.message}
      </p>
    );
  return (
    <>
      <ul aria-label="What the ramp keeps" className="m-0 mt-1 list-none p-0">
        {shown.map((answer) => (
          <li
            key={answer.id}
            className="grid min-h-8 grid-cols-[20px_146px_1fr_auto] items-center gap-x-1 border-b border-line text-small"
          >
            <span aria-hidden="true">{MARKS[answer.verdict]}</span>
            <strong className="font-semibold" title={answer.question}>
              {answer.label}
              <span className="sr-only">: {SAID[answer.verdict]}</span>
            </strong>
            <span className="text-quiet">{answer.sentence}</span>
            {answer.repair && (
              <Button
                onClick={() => void mend(answer.id)}
                title={`So that it keeps this: ${answer.question}`}
              >
                {answer.repair}
              </Button>
            )}
          </li>
        ))}
      </ul>
      <TextButton className="-ml-1.5 self-start" onClick={() => setEvery(!every)}>
        {every ? "Only what it is for" : `Ask all ${answers.length} questions`}
      </TextButton>
    </>
  );
}

/** Several ramps at once, one for each color: what would be baked. */
function Several({ ramps }: { ramps: { strip: string; name: string }[] }) {
  return (
    <ul aria-label="Ramps that were made" className="m-0 grid list-none gap-1 p-0">
      {ramps.map((ramp, place) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: each is the ramp of its color
        <li key={place} className="grid h-8 grid-cols-[166px_1fr] items-center">
          <span className="truncate text-small text-quiet">{ramp.name}</span>
          <span className="size-full">
            <Samples rgba={ramp.strip} />
          </span>
        </li>
      ))}
      <li className="text-small text-quiet">
        All pass the same lightness at the same step, but for the step that is each color itself.
      </li>
    </ul>
  );
}

/** A ramp for a purpose, and what it keeps of what its purpose promises. */
export function PurposeView({ work }: { work: RampWork }) {
  const palette = usePalette();
  const shown = useShown();
  const { change, settle } = useCommands();
  const selected = useScreen((screen) => screen.selected);
  const say = useScreen((screen) => screen.say);
  const { makers } = work.menus;
  const [wish, setWish] = useState<Wish>({
    maker: makers[0]?.id ?? "",
    colors: null,
    numbers: {},
    steps: makers[0]?.steps ?? 9,
    measure: "oklab",
  });
  const maker = makers.find((entry) => entry.id === wish.maker);
  const present = new Set(shown.map((swatch) => swatch.id));
  const followed = selected.filter((id) => present.has(id));
  const usual = followed.length > 0 ? followed : shown.slice(0, 1).map((swatch) => swatch.id);
  const colors = (wish.colors ?? usual).filter((color) => color !== "").slice(0, maker?.most ?? 1);
  const ready = maker !== undefined && colors.length >= maker.fewest;
  const made = useQuery(ask.rampMade(palette, { ...wish, colors }, ready));
  const recipes = ready && !made.error ? (made.data?.ramps ?? []) : [];
  const [first, ...others] = recipes;
  // What was made for the words before is shown meanwhile, and cannot be taken for what they say now.
  const isFresh = !made.isPlaceholderData;
  const isMade = isFresh && first !== undefined && JSON.stringify(first) === JSON.stringify(work.recipe);
  const bakeAll = async () => {
    if (!first || !(await settle())) return;
    const changed = await change({
      kind: "operation",
      operation: { kind: "bake_ramp", ramp: first, id: null, others, name: "" },
    });
    if (changed)
      say(`${recipes.length} ramps of ${first.steps} swatches stand at the end of the strip.`, {
        action: { label: "Undo", run: () => void change({ kind: "undo" }) },
      });
  };
  const own = work.drawing?.own;
  const nameOf = (color: string) => shown.find((swatch) => swatch.id === color)?.name ?? color;
  return (
    <div className="flex min-h-0 grow flex-col overflow-y-auto">
      {maker && (
        <MakerSentence
          maker={maker}
          wish={wish}
          colors={colors}
          work={work}
          onChange={(part) => setWish({ ...wish, ...part })}
        />
      )}
      <div className="my-1 flex min-h-8 items-center gap-x-4 text-small text-quiet">
        <span>{maker?.use}</span>
        <span className="grow" />
        {others.length > 0 && (
          <Button disabled={!ready || !isFresh} onClick={() => void bakeAll()}>
            Bake all {recipes.length * (first?.steps ?? 0)} swatches
          </Button>
        )}
        <Button primary disabled={!first || isMade || !isFresh} onClick={() => first && work.take(first)}>
          {isMade ? "It is made" : others.length > 0 ? "Work on the first" : "Make it"}
        </Button>
      </div>
      {made.error && ready && (
        <p role="alert" className="my-1 border-l-4 border-ink pl-3">
          {made.error.message}
        </p>
      )}
      {!ready && (
        <p className="text-small text-quiet">
          Choose {maker && maker.fewest > 1 ? `${maker.fewest} colors` : "a color"}, in the strip or in the
          sentence.
        </p>
      )}
      {others.length > 0 && <SeveralDrawn recipes={recipes} names={colors.map(nameOf)} />}
      {own && (
        <div className="grid grid-cols-[150px_1fr] gap-x-4 gap-y-1 border-t border-line pt-2">
          <span className="self-center text-small">
            <strong className="font-semibold">The ramp as it is</strong>
            <span className="block text-quiet">
              evenness {own.even.toFixed(2)}
              {work.recipe.measure === "oklab"
                ? ""
                : ` by ${work.menus.measures.find((entry) => entry.id === work.recipe.measure)?.label}`}
            </span>
          </span>
          <span className="relative block h-12">
            <Samples rgba={own.rgba} />
            <OutsideMarks spans={own.outside_spans} />
            <BrokenPlaces work={work} />
          </span>
          <span className="self-center text-small text-quiet">Lightness</span>
          <CurveBox className="h-7 w-full">
            <CurveLine values={own.lightness} top={1} chord />
          </CurveBox>
          <span className="self-center text-small text-quiet">Chroma</span>
          <CurveBox className="h-6 w-full">
            <CurveLine values={own.chroma} top={0.33} />
          </CurveBox>
          {work.drawing?.views.map((view) => (
            <Fragment key={view.id}>
              <span className="self-center text-small text-quiet">{view.label}</span>
              <Samples rgba={view.rgba} className="h-4 w-full" />
            </Fragment>
          ))}
          {own.steps !== "" && (
            <>
              <span className="self-center text-small text-quiet">{work.recipe.steps} steps</span>
              <Samples rgba={own.steps} className="h-8 w-full" />
            </>
          )}
        </div>
      )}
      {own && <Promises work={work} />}
    </div>
  );
}

/** Marks on the ramp where a promise is not kept. */
function BrokenPlaces({ work }: { work: RampWork }) {
  const palette = usePalette();
  const check = useQuery(ask.rampCheck(palette, work.recipe, work.recipe.stops.length >= 2));
  const wrong = (check.data?.answers ?? []).filter((answer) => answer.given && answer.verdict !== "holds");
  return wrong.flatMap((answer) =>
    answer.places.map((at) => (
      <span
        key={`${answer.id}-${at}`}
        title={`${answer.label}: ${answer.sentence}`}
        className="absolute -top-1 bottom-0 w-0.5 -translate-x-1/2 bg-ink shadow-[0_0_0_1px_var(--ground)]"
        style={{ left: `${at * 100}%` }}
      />
    )),
  );
}

function SeveralDrawn({ recipes, names }: { recipes: RampWork["recipe"][]; names: string[] }) {
  const palette = usePalette();
  const strips = useQuery(ask.rampStrips(palette, recipes));
  return <Several ramps={(strips.data ?? []).map((strip, place) => ({ strip, name: names[place] ?? "" }))} />;
}
