import { Fragment, useEffect, useMemo, useRef, useState } from "react";
import { client, type Ramp, type RampRecipe, type RampStop, unwrap } from "../../api/client";
import { Newest } from "../../api/newest";
import { inWords } from "../../api/words";
import { useBench } from "../../bench/context";
import { useScreen } from "../../shell/store";
import { Button } from "../../ui/button";
import { ChoiceWord, NumberWord, Sentence } from "../../ui/sentence";
import { LaneRow } from "./lane";
import { StopBar } from "./stop-bar";
import { StopWord } from "./stop-word";
import { type Drawn, EMPTY_RAMP, swatchStops, useRamps } from "./store";

const DRAWN = [
  { id: "continuous", label: "continuous", use: "Every shade, as a gradient is painted." },
  { id: "stepped", label: "stepped", use: "The very swatches that baking gives." },
];

/** The lanes of a recipe, redrawn while it changes; `problem` says why there are none. */
function useLanes(palette: string, revision: number, ramp: RampRecipe | null) {
  const [lanes, setLanes] = useState<Ramp | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const newest = useMemo(
    () =>
      new Newest<RampRecipe, Ramp>({
        ask: (wish, signal) =>
          unwrap(
            client.POST("/api/palettes/{palette_id}/ramps", {
              params: { path: { palette_id: palette } },
              body: { ramp: wish },
              signal,
            }),
          ),
        answer: (answer) => {
          setLanes(answer);
          setProblem(null);
        },
        problem: (error) => setProblem(inWords(error)),
      }),
    [palette],
  );
  // The recipe's text stands for the recipe, the revision for the colors of its swatches.
  const wish = `${revision} ${JSON.stringify(ramp)}`;
  const latest = useRef({ ramp, wish: "" });
  latest.current.ramp = ramp;
  useEffect(() => {
    if (latest.current.wish === wish) return;
    latest.current.wish = wish;
    if (latest.current.ramp) newest.want(latest.current.ramp);
    else setLanes(null);
  }, [wish, newest]);
  useEffect(() => () => newest.stop(), [newest]);
  return { lanes, problem };
}

const FEW = 4;

/** The stops that follow the strip: two or more selected swatches, else the two ends (all of a very short strip). */
function useStopsFromSelection() {
  const { palette, shown } = useBench();
  const selection = useScreen((screen) => screen.selection);
  const ramps = useRamps();
  const known = ramps.ramps[palette.id];
  const chosen = shown.filter((swatch) => selection.has(swatch.id)).map((swatch) => swatch.id);
  const wanted = chosen.length >= 2 ? chosen.slice(0, 16) : null;
  const key = wanted?.join() ?? "";
  const few = shown.length <= FEW ? shown : [shown[0], shown.at(-1)];
  const ends = few.filter((swatch) => swatch !== undefined).map((swatch) => swatch.id);
  const latest = useRef({ wanted, known, ends });
  latest.current = { wanted, known, ends };
  const { set } = ramps;
  // Only another selection replaces the stops.
  const followed = `${palette.id} ${key}`;
  const done = useRef("");
  useEffect(() => {
    if (done.current === followed) return;
    done.current = followed;
    const { wanted: chosen, known: there, ends: outer } = latest.current;
    if (chosen) set(palette.id, { stops: swatchStops(chosen) });
    else if (!there && new Set(outer).size >= 2) set(palette.id, { stops: swatchStops(outer) });
  }, [followed, palette.id, set]);
}

/** Fill in between two or more colors, seen in every space at once. */
export function RampStage() {
  const { palette, menus, shown, change, settle } = useBench();
  const say = useScreen((screen) => screen.say);
  const select = useScreen((screen) => screen.select);
  useStopsFromSelection();
  const { ramps, set } = useRamps();
  const state = ramps[palette.id] ?? EMPTY_RAMP;
  const present = new Set(shown.map((swatch) => swatch.id));
  const stops = state.stops.filter((stop) => stop.swatch === null || present.has(stop.swatch ?? ""));
  const recipe: RampRecipe = {
    kind: "ramp",
    stops,
    steps: state.steps,
    space: state.space,
    hue: state.hue,
  };
  const { lanes, problem } = useLanes(palette.id, palette.revision, stops.length ? recipe : null);
  const fresh = lanes && lanes.stops.length === stops.length ? lanes : null;
  const revise = (part: Partial<typeof state>) => set(palette.id, part);
  const names = stops.map(
    (stop, place) =>
      shown.find((swatch) => swatch.id === stop.swatch)?.name ?? fresh?.stops[place]?.name ?? stop.text ?? "",
  );
  const chosen = fresh?.lanes.find(
    (lane) => lane.space === state.space && (lane.hue === state.hue || !lane.id.includes(lane.hue)),
  );
  const replace = (place: number, stop: RampStop) =>
    revise({ stops: stops.map((other, index) => (index === place ? stop : other)) });
  const add = (stop: RampStop) => {
    const last = stops.at(-1);
    const ended = last?.position === 1 ? [...stops.slice(0, -1), { ...last, position: null }] : stops;
    revise({ stops: [...ended, stop] });
  };

  const bake = async () => {
    if (!(await settle())) return;
    const known = new Set(palette.swatches.map((swatch) => swatch.id));
    const changed = await change({
      kind: "operation",
      operation: { kind: "bake_ramp", ramp: recipe, name: "" },
    });
    if (!changed) return;
    const made = changed.swatches.filter((swatch) => !known.has(swatch.id));
    const group = changed.groups.find((entry) => entry.id === made[0]?.group);
    say(`${made.length} swatches stand at the end of the strip${group ? ` as “${group.name}”` : ""}.`, {
      action: { label: "Undo", run: () => void change({ kind: "undo" }) },
    });
    select(made[0] ? [made[0].id] : []);
  };
  const copy = async () => {
    try {
      const answer = await unwrap(
        client.POST("/api/palettes/{palette_id}/ramps/css", {
          params: { path: { palette_id: palette.id } },
          body: { ramp: recipe },
        }),
      );
      await navigator.clipboard.writeText(answer.text);
      say("The CSS gradient is on the clipboard, with an sRGB stand-in before it.");
    } catch (error) {
      say(`The gradient could not be copied: ${inWords(error)}`, {
        kind: "wrong",
      });
    }
  };

  const newStop = (
    <StopWord
      key={`add-${stops.length}`}
      label="Add a stop"
      text={stops.length === 0 ? "a first color" : stops.length === 1 ? "a second color" : "add a stop"}
      stop={null}
      onChange={add}
    />
  );
  const isReady = stops.length >= 2;
  return (
    <>
      <Sentence label="Recipe of the ramp">
        Ramp{" "}
        {stops.map((stop, place) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: stops are their places
          <Fragment key={`${place}-${stops.length}`}>
            {place === 0 ? "from" : place === stops.length - 1 ? "to" : place === 1 ? "through" : "and"}{" "}
            <StopWord
              label={`Stop ${place + 1}`}
              text={names[place] || "a color"}
              stop={stop}
              onChange={(next) => replace(place, next)}
              onRemove={
                stops.length > 2
                  ? () => revise({ stops: stops.filter((_, index) => index !== place) })
                  : undefined
              }
            />{" "}
          </Fragment>
        ))}
        {!isReady && (
          <>
            {stops.length === 0 ? "from" : "to"} {newStop}
          </>
        )}
        {isReady && (
          <>
            in{" "}
            <NumberWord
              label="Number of steps"
              value={state.steps}
              min={2}
              max={menus.most_steps}
              unit={() => "steps"}
              hint="As many swatches as baking gives. Type a number, or step with ↑ and ↓."
              onChange={(steps) => revise({ steps })}
            />
            , in{" "}
            <ChoiceWord
              label="Interpolation space"
              value={chosen?.id ?? ""}
              choices={(fresh?.lanes ?? []).map(({ id, label, use }) => ({ id, label, use }))}
              onChange={(id) => {
                const lane = fresh?.lanes.find((entry) => entry.id === id);
                if (lane) revise({ space: lane.space, hue: lane.hue });
              }}
            />
            , drawn{" "}
            <ChoiceWord
              label="Drawn"
              value={state.drawn}
              choices={DRAWN}
              onChange={(drawn) => revise({ drawn: drawn as Drawn })}
            />
            .
          </>
        )}
      </Sentence>
      {problem && isReady ? (
        <p role="alert" className="border-l-4 border-ink pl-3">
          {problem}
        </p>
      ) : !isReady ? (
        <p className="max-w-xl text-quiet">
          A ramp needs two colors or more. Select swatches in the strip with Ctrl-click, or choose and type
          them in the sentence.
        </p>
      ) : (
        fresh && (
          <>
            <div className="mb-1 flex min-h-8 items-center gap-x-5 text-small text-quiet">
              {chosen && (
                <>
                  <span title="How far the lightness falls below the straight line between the ends">
                    darkest dip <strong className="font-semibold text-ink">{chosen.dip.toFixed(2)}</strong>
                  </span>
                  <span title="Steps that sRGB cannot show; they are shown with less chroma">
                    steps outside sRGB <strong className="font-semibold text-ink">{chosen.outside}</strong>
                  </span>
                </>
              )}
              {newStop}
              <span className="grow" />
              <Button onClick={() => void copy()}>Copy as CSS</Button>
              <Button primary onClick={() => void bake()}>
                Bake {state.steps} swatches
              </Button>
            </div>
            <div className="flex min-h-0 grow flex-col overflow-y-auto pt-1 pr-1 pb-2">
              <StopBar
                stops={fresh.stops}
                onMove={(positions) =>
                  revise({
                    stops: stops.map((stop, place) => ({ ...stop, position: positions[place] ?? null })),
                  })
                }
              />
              <fieldset className="m-0 mt-2 grid min-h-0 grow auto-rows-[minmax(56px,92px)] gap-3.5 border-0 p-0">
                <legend className="sr-only">Lanes: choose the one to take</legend>
                {fresh.lanes.map((lane) => (
                  <LaneRow
                    key={lane.id}
                    lane={lane}
                    drawn={state.drawn}
                    chosen={lane.id === chosen?.id}
                    onChoose={() => revise({ space: lane.space, hue: lane.hue })}
                  />
                ))}
              </fieldset>
            </div>
          </>
        )
      )}
    </>
  );
}
