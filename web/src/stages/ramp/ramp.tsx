import { type ComponentType, lazy, Suspense, useState } from "react";
import type { KeptRamp, Ramp, RampStop } from "../../api/types";
import { useCommands, usePalette } from "../../bench/context";
import { Figure } from "../../bench/draft-bar";
import { useScreen } from "../../shell/store";
import { Button, TextButton } from "../../ui/button";
import { ActionPanel } from "../../ui/sentence";
import { ViewTabs } from "../../ui/view-tabs";
import { FillPanel } from "./fill";
import { KeptRow } from "./kept-row";
import { LanesView } from "./lanes";
import { RampSentence } from "./ramp-sentence";
import { StopBar } from "./stop-bar";
import { StopLine } from "./stop-line";
import { RAMP_VIEWS, type RampView, useRamps } from "./store";
import { type RampWork, useRampWork, useStopsFromSelection } from "./use-ramp";

type View = ComponentType<{ work: RampWork }>;
// Views that are turned to now and then are loaded when they are.
const VIEWS: Record<RampView, View> = {
  lanes: LanesView,
  closer: lazy(() => import("./closer").then((loaded) => ({ default: loaded.CloserView }))),
  purpose: lazy(() => import("./purpose").then((loaded) => ({ default: loaded.PurposeView }))),
  fit: lazy(() => import("./fit").then((loaded) => ({ default: loaded.FitView }))),
  tone: lazy(() => import("./tone").then((loaded) => ({ default: loaded.ToneView }))),
  take: lazy(() => import("./take").then((loaded) => ({ default: loaded.TakeView }))),
};
const WITH_STOPS: readonly RampView[] = ["lanes", "closer", "purpose"];
const WIDTH = 600;

/** What is measured of the ramp as it is, and baking it. */
function Figures({ work }: { work: RampWork }) {
  const palette = usePalette();
  const { change, settle, operate } = useCommands();
  const say = useScreen((screen) => screen.say);
  const select = useScreen((screen) => screen.select);
  const { drawing, recipe, state } = work;
  const kept = palette.ramps.find((entry) => entry.id === state.kept);
  const undo = { action: { label: "Undo", run: () => void change({ kind: "undo" }) } };
  const bake = async () => {
    if (!(await settle())) return;
    const known = new Set(palette.swatches.map((swatch) => swatch.id));
    let id: string | null = null;
    if (kept) {
      // What is baked from a kept ramp can follow it later, so the ramp is kept as it is now first.
      const before = await change({
        kind: "operation",
        operation: { kind: "change_ramp", id: kept.id, ramp: recipe },
      });
      if (!before) return;
      id = kept.id;
    }
    const changed = await change({
      kind: "operation",
      operation: { kind: "bake_ramp", ramp: id ? null : recipe, id, others: [], name: "" },
    });
    if (!changed) return;
    const made = changed.swatches.filter((swatch) => !known.has(swatch.id));
    const group = changed.groups.find((entry) => entry.id === made[0]?.group);
    say(`${made.length} swatches stand at the end of the strip${group ? ` as “${group.name}”` : ""}.`, undo);
    select(made[0] ? [made[0].id] : []);
  };
  const again = async () => {
    if (!kept || !(await operate({ kind: "change_ramp", id: kept.id, ramp: recipe }))) return;
    const changed = await operate({ kind: "bake_again", id: kept.id });
    if (changed) say(`The swatches of “${kept.name}” follow it again.`, undo);
  };
  const own = drawing?.own;
  return (
    <div className="flex min-h-8 flex-wrap items-center gap-x-5 text-small text-quiet">
      {own && (
        <>
          <Figure
            name="evenness"
            value={own.even.toFixed(2)}
            title={`Largest step over mean step; ${own.even_rounded.toFixed(2)} once rounded to 8 bits`}
          />
          <Figure
            name="darkest dip"
            value={own.dip.toFixed(2)}
            title="Below the straight line between the ends"
          />
          <Figure
            name="colors in 8 bits"
            value={own.colors.toLocaleString("en")}
            title="Different colors over its length"
          />
          <Figure
            name="widest band"
            value={`${Math.max(1, Math.round(own.widest * WIDTH))} px`}
            title={`At ${WIDTH} pixels from end to end`}
          />
          <Figure
            name="outside sRGB"
            value={`${(own.outside * 100).toFixed(own.outside > 0 && own.outside < 0.1 ? 1 : 0)} %`}
            title="Share of its length that sRGB cannot show"
          />
        </>
      )}
      <span className="grow" />
      <ActionPanel label="Fill in between …">
        {(close) => <FillPanel work={work} close={close} />}
      </ActionPanel>
      {kept && kept.baked > 0 && <Following kept={kept} />}
      {kept && kept.baked > 0 && !kept.follows && (
        <Button
          title={
            kept.by_hand.length
              ? `${kept.by_hand.length} of its swatches were changed by hand and stay`
              : "The swatches that were baked from it follow it"
          }
          onClick={() => void again()}
        >
          Bake again
        </Button>
      )}
      <Button primary disabled={!own || recipe.steps == null} onClick={() => void bake()}>
        {recipe.steps == null ? "Bake" : `Bake ${recipe.steps} swatches`}
      </Button>
    </div>
  );
}

/** Whether what was baked changes with the ramp by itself. */
function Following({ kept }: { kept: KeptRamp }) {
  const { operate } = useCommands();
  // As it was wished, while that is being saved.
  const [wished, setWished] = useState<boolean | null>(null);
  return (
    <label
      className="flex cursor-pointer items-center gap-1.5"
      title="Swatches that were baked from it change with it when a swatch that it goes through is recolored"
    >
      <input
        type="checkbox"
        className="accent-ink"
        checked={wished ?? kept.following}
        onChange={async (event) => {
          const following = event.target.checked;
          setWished(following);
          await operate({ kind: "follow_ramp", id: kept.id, following });
          setWished(null);
        }}
      />
      following
    </label>
  );
}

/** Stops as they were drawn last, at the places where the recipe has them by now: keys may be faster than answers. */
function withPlaces(drawn: Ramp["stops"], wanted: RampStop[], movable: boolean): Ramp["stops"] {
  if (!movable) return drawn;
  const places = drawn.map((stop, at) => wanted[at]?.position ?? stop.position);
  return drawn.map((stop, at) => {
    const position = places[at] ?? stop.position;
    const after = places[at + 1];
    const middle = after === undefined ? null : position + (wanted[at]?.midpoint ?? 0.5) * (after - position);
    return { ...stop, position, share: position, midpoint: stop.midpoint === null ? null : middle };
  });
}

function Stops({ work }: { work: RampWork }) {
  const { drawing, recipe, menus, state, revise, set, edit } = work;
  if (!drawing) return null;
  const movable = menus.spacings.find((entry) => entry.id === recipe.spacing)?.hears_easing ?? true;
  return (
    <>
      <StopBar
        stops={withPlaces(drawing.stops, recipe.stops, movable)}
        movable={movable}
        selected={state.stop}
        onSelect={(stop) => set({ stop })}
        onMove={(positions) =>
          revise({ stops: recipe.stops.map((stop, at) => ({ ...stop, position: positions[at] ?? null })) })
        }
        onBend={(place, midpoint) =>
          revise({ stops: recipe.stops.map((stop, at) => (at === place ? { ...stop, midpoint } : stop)) })
        }
        onAdd={(share) => void edit("add", { share })}
        onRemove={(place) => {
          set({ stop: null });
          void edit("remove", { place });
        }}
      />
      <StopLine work={work} />
    </>
  );
}

/** Fill in between two or more colors, seen by every way at once. */
export function RampStage() {
  useStopsFromSelection();
  const work = useRampWork();
  const { view, setView } = useRamps();
  const { discard } = useCommands();
  if (!work)
    return (
      <p role="status" className="text-quiet">
        Laying out the ramp …
      </p>
    );
  const isReady = work.recipe.stops.length >= 2;
  const Chosen = VIEWS[view];
  const needsRamp = view !== "fit" && view !== "purpose";
  return (
    <ViewTabs
      label="Views of the ramp"
      views={RAMP_VIEWS}
      view={view}
      onChange={(next) => {
        discard();
        setView(next);
      }}
    >
      <KeptRow work={work} />
      {view !== "purpose" && view !== "fit" && <RampSentence work={work} />}
      {work.problem && (
        <p role="alert" className="my-1 border-l-4 border-ink pl-3">
          {work.problem}
        </p>
      )}
      {!isReady && needsRamp && (
        <p className="max-w-xl text-quiet">
          A ramp needs two colors or more. Select swatches in the strip with Ctrl-click, or choose and type
          them in the sentence.
          <TextButton onClick={() => setView("purpose")}>Make one for a purpose</TextButton>
        </p>
      )}
      {isReady && WITH_STOPS.includes(view) && view !== "purpose" && <Figures work={work} />}
      {isReady && WITH_STOPS.includes(view) && view !== "purpose" && <Stops work={work} />}
      {(isReady || !needsRamp) && (
        <Suspense fallback={<p role="status">…</p>}>
          <Chosen work={work} />
        </Suspense>
      )}
    </ViewTabs>
  );
}
