import { useQuery } from "@tanstack/react-query";
import { useEffect, useMemo, useRef } from "react";
import { navigate } from "wouter/use-browser-location";
import { editRamp, makeAnew } from "../../api/ask-once";
import { useNewest } from "../../api/asking";
import type { Stand } from "../../api/keys";
import { ask } from "../../api/queries";
import type { Ramp, RampMenus, RampRecipe } from "../../api/types";
import { inWords } from "../../api/words";
import { usePalette, useShown } from "../../bench/context";
import { useScreen } from "../../shell/store";
import { EMPTY_RAMP, lanesShown, type RampState, type RampView, swatchStops, useRamps } from "./store";

const FEW = 4;
/** Views that show the ramp in gray and to other eyes. */
const WITH_VIEWS: readonly RampView[] = ["closer", "purpose"];
const MOST_FOLLOWED = 16;

interface Wish {
  ramp: RampRecipe;
  lanes: string[];
  compare: string[];
  views: boolean;
}

/** The lanes of a recipe, redrawn while it changes; `problem` says why there are none. */
function useDrawing(palette: Stand, wish: Wish | null) {
  // The recipe's text stands for the recipe, the revision for the colors of its swatches.
  const said = `${palette.id} ${palette.revision} ${JSON.stringify(wish)}`;
  const { answer, error } = useNewest<Ramp>(said, wish && ask.rampDrawn(palette, wish));
  return { drawing: wish ? (answer ?? null) : null, problem: error ? inWords(error) : null };
}

/** A ramp through these swatches, with the settings of before. */
export function takeSelection(palette: string, ids: readonly string[]) {
  const { ramps, set } = useRamps.getState();
  const before = ramps[palette] ?? EMPTY_RAMP;
  set(palette, {
    recipe: { ...before.recipe, stops: swatchStops(ids.slice(0, MOST_FOLLOWED)), purpose: "any" },
    kept: null,
    stop: null,
    follows: true,
  });
}

/** Stops that follow the strip: two or more selected swatches, else its two ends (all of a very short strip). */
export function useStopsFromSelection() {
  const palette = usePalette();
  const shown = useShown();
  const selection = useScreen((screen) => screen.selection);
  const ramps = useRamps();
  const known = ramps.ramps[palette.id];
  const chosen = shown.filter((swatch) => selection.has(swatch.id)).map((swatch) => swatch.id);
  const wanted = chosen.length >= 2 ? chosen.slice(0, MOST_FOLLOWED) : null;
  const key = wanted?.join() ?? "";
  const few = shown.length <= FEW ? shown : [shown[0], shown.at(-1)];
  const ends = few.filter((swatch) => swatch !== undefined).map((swatch) => swatch.id);
  const latest = useRef({ wanted, known, ends, kept: palette.ramps });
  latest.current = { wanted, known, ends, kept: palette.ramps };
  const { set } = ramps;
  // Only another selection replaces the stops.
  const followed = `${palette.id} ${key}`;
  const done = useRef("");
  useEffect(() => {
    if (done.current === followed) return;
    const begins = done.current === "";
    done.current = followed;
    const { wanted: chosen, known: there, ends: outer, kept } = latest.current;
    const asked =
      begins && kept.find((entry) => entry.id === new URLSearchParams(location.search).get("ramp"));
    if (asked) {
      set(palette.id, { recipe: asked.ramp, kept: asked.id, stop: null, follows: false });
      // It was asked for once: the address is that of the palette again.
      const others = new URLSearchParams(location.search);
      others.delete("ramp");
      navigate(others.size ? `${location.pathname}?${others}` : location.pathname, { replace: true });
      return;
    }
    // What was made by hand, or kept, stays when something else is selected: the selection is offered instead.
    if (there && !there.follows) return;
    if (chosen && !(begins && there)) takeSelection(palette.id, chosen);
    else if (!there && kept[0]) set(palette.id, { recipe: kept[0].ramp, kept: kept[0].id, follows: false });
    else if (!there && new Set(outer).size >= 2)
      set(palette.id, { recipe: { ...EMPTY_RAMP.recipe, stops: swatchStops(outer) } });
  }, [followed, palette.id, set]);
}

export interface RampWork {
  state: RampState;
  recipe: RampRecipe;
  menus: RampMenus;
  drawing: Ramp | null;
  problem: string | null;
  lanes: string[];
  revise: (part: Partial<RampRecipe>) => void;
  /** Take a recipe as it is; `kept` where it is one that is kept. */
  take: (recipe: RampRecipe, kept?: string | null) => void;
  set: (part: Partial<RampState>) => void;
  /** A change of the stops that the server works out. */
  edit: (edit: string, more?: { share?: number; place?: number; count?: number }) => Promise<void>;
}

/** The ramp that is worked on, how it is drawn, and how it is changed; null until the menus are there. */
export function useRampWork(): RampWork | null {
  const palette = usePalette();
  const shown = useShown();
  const say = useScreen((screen) => screen.say);
  const menus = useQuery(ask.rampMenus()).data;
  const { ramps, set, lanes: wanted, compare, view } = useRamps();
  const state = ramps[palette.id] ?? EMPTY_RAMP;
  const present = useMemo(() => new Set(shown.map((swatch) => swatch.id)), [shown]);
  const recipe = useMemo(
    () => ({
      ...state.recipe,
      stops: state.recipe.stops.filter((stop) => stop.swatch == null || present.has(stop.swatch)),
    }),
    [state.recipe, present],
  );
  const lanes = lanesShown(wanted, menus?.lanes ?? []);
  const ready = recipe.stops.length >= 2 && menus;
  const { drawing, problem } = useDrawing(
    palette,
    ready
      ? { ramp: recipe, lanes, compare: compare ? [...compare] : [], views: WITH_VIEWS.includes(view) }
      : null,
  );
  if (!menus) return null;
  const fresh = drawing && drawing.stops.length === recipe.stops.length ? drawing : null;
  const put = (part: Partial<RampState>) => set(palette.id, part);
  // Of another number of steps, the color that it goes through shall be one of them again.
  const makeItAnew = async (next: RampRecipe) => {
    const tied = next.stops.map((stop) => stop.swatch).filter((swatch) => swatch != null);
    const [swatch] = tied;
    if (Object.keys(next.numbers).length === 0 || tied.length !== 1 || !swatch) return;
    try {
      const made = await makeAnew(palette.id, next, swatch);
      const now = useRamps.getState().ramps[palette.id]?.recipe;
      if (made && now && JSON.stringify(now) === JSON.stringify(next))
        put({ recipe: { ...next, stops: made.stops } });
    } catch (error) {
      say(inWords(error), { kind: "wrong" });
    }
  };
  const take = (next: RampRecipe, kept: string | null = null) =>
    put({ recipe: next, kept, stop: null, follows: false });
  return {
    state,
    recipe,
    menus,
    drawing: fresh,
    problem: ready ? problem : null,
    lanes,
    revise: (part) => {
      // What a maker made stays its work until stops are moved by hand.
      const byHand = part.stops ?? part.spacing ?? part.closed;
      const next = { ...recipe, ...part, ...(byHand === undefined ? {} : { numbers: {} }) };
      put({ recipe: next, ...(part.stops ? { follows: false } : {}) });
      if (part.steps !== undefined) void makeItAnew(next);
    },
    take,
    set: put,
    edit: async (edit, more = {}) => {
      try {
        const edited = await editRamp(palette.id, recipe, edit, more);
        put({ recipe: edited, stop: edit === "add" ? null : state.stop, follows: false });
      } catch (error) {
        say(inWords(error), { kind: "wrong" });
      }
    },
  };
}

/** Whether two moments of the work are about the same ramp, however it was drawn meanwhile. */
export function sameRamp(before: { work: RampWork }, after: { work: RampWork }) {
  const [a, b] = [before.work, after.work];
  return a.recipe === b.recipe && a.state === b.state && a.menus === b.menus;
}
