import { QueryClient } from "@tanstack/react-query";
import { act } from "react";
import { afterEach, beforeEach, describe, expect, it } from "vitest";
import { ask, KEYS } from "../../api/queries";
import { BenchContext, createBench } from "../../bench/context";
import { useScreen } from "../../shell/store";
import { json, rest, serverOf, used } from "../../testing/hook";
import { EMPTY_RECIPE, swatchStops, useRamps } from "./store";
import { sameRamp, useRampWork, useStopsFromSelection } from "./use-ramp";

const ID = "11111111-1111-4111-8111-111111111111";
const KEPT = { id: "r1", ramp: { stops: [{ swatch: "b" }, { swatch: "c" }], steps: 5 } };

function shown(ids: string[], ramps: unknown[] = []) {
  const queries = new QueryClient();
  const swatches = ids.map((id) => ({ id, name: id }));
  queries.setQueryData(KEYS.palette(ID), {
    id: ID,
    revision: 1,
    links: [],
    groups: [],
    ramps,
    swatches,
  } as never);
  const bench = createBench(queries, ID, null);
  return used(useStopsFromSelection, undefined, {
    queries,
    around: (inner) => <BenchContext value={bench}>{inner}</BenchContext>,
  });
}
const stops = () => useRamps.getState().ramps[ID]?.recipe.stops.map((stop) => stop.swatch);
const select = (ids: string[]) => act(() => useScreen.getState().select(ids));

beforeEach(() => {
  useRamps.setState({ ramps: {} });
  useScreen.getState().select([]);
});
afterEach(() => history.replaceState(null, "", "/"));

describe("the stops of a ramp", () => {
  it("are the two ends of a long strip, and all of a short one", () => {
    shown(["a", "b", "c", "d", "e", "f"]).end();
    expect(stops()).toEqual(["a", "f"]);
    useRamps.setState({ ramps: {} });
    shown(["a", "b", "c"]);
    expect(stops()).toEqual(["a", "b", "c"]);
  });
  it("follow two or more selected swatches, in the order of the strip", () => {
    shown(["a", "b", "c", "d", "e"]);
    select(["d", "b"]);
    expect(stops()).toEqual(["b", "d"]);
    select(["d"]);
    expect(stops(), "one makes no ramp").toEqual(["b", "d"]);
  });
  it("stay as they were made by hand", () => {
    shown(["a", "b", "c", "d", "e"]);
    act(() => useRamps.getState().set(ID, { follows: false }));
    select(["b", "c"]);
    expect(stops()).toEqual(["a", "e"]);
  });
  it("are those of the ramp that is kept, above all of the one that the address names, which then goes", () => {
    shown(["a", "b", "c", "d", "e"], [KEPT]).end();
    expect(stops()).toEqual(["b", "c"]);
    useRamps.setState({ ramps: {} });
    history.replaceState(null, "", `/palettes/${ID}?ramp=r2`);
    shown(["a", "b", "c"], [KEPT, { id: "r2", ramp: { stops: [{ swatch: "a" }, { swatch: "c" }] } }]);
    expect(stops()).toEqual(["a", "c"]);
    expect(location.search).toBe("");
  });
});

const MENUS = {
  lanes: [
    { id: "oklab", is_shown: true },
    { id: "srgb", is_shown: false },
  ],
};
const drawing = (...stops: string[]) => ({ stops: stops.map((id) => ({ id })), lanes: [] });

function working(ids: string[], stops: string[], { menus = true } = {}) {
  const queries = new QueryClient({ defaultOptions: { queries: { retry: false } } });
  const swatches = ids.map((id) => ({ id, name: id }));
  const palette = { id: ID, revision: 1, links: [], groups: [], ramps: [], swatches };
  queries.setQueryData(KEYS.palette(ID), palette as never);
  if (menus) queries.setQueryData(ask.rampMenus().queryKey, MENUS as never);
  useRamps.setState({ ramps: {} });
  useRamps.getState().set(ID, { recipe: { ...EMPTY_RECIPE, stops: swatchStops(stops) } });
  const bench = createBench(queries, ID, null);
  return used(useRampWork, undefined, {
    queries,
    around: (inner) => <BenchContext value={bench}>{inner}</BenchContext>,
  });
}

describe("the ramp that is worked on", () => {
  it("is nothing before the menus are there", () => {
    serverOf(new Error("away"));
    expect(working(["a", "b"], ["a", "b"], { menus: false }).now()).toBeNull();
  });
  it("is drawn by the server in the lanes that are shown as a rule", async () => {
    const sent = serverOf(json(drawing("a", "b")));
    const { now } = working(["a", "b"], ["a", "b"]);
    await rest();
    expect(now()?.drawing?.stops).toHaveLength(2);
    expect(now()?.problem).toBeNull();
    expect(sent).toHaveLength(1);
    expect(sent[0]?.path).toBe(`/api/palettes/${ID}/ramps`);
    expect(sent[0]?.body).toMatchObject({ lanes: ["oklab"], compare: [], views: false });
  });
  it("goes through the swatches that are left, and asks for nothing where one is", async () => {
    const sent = serverOf();
    const { now } = working(["a", "c"], ["a", "b"]);
    await rest();
    expect(now()?.recipe.stops.map((stop) => stop.swatch)).toEqual(["a"]);
    expect(now()?.drawing).toBeNull();
    expect(now()?.problem).toBeNull();
    expect(sent).toEqual([]);
  });
  it("does not show the drawing of other stops", async () => {
    serverOf(json(drawing("a", "b", "c")));
    const { now } = working(["a", "b"], ["a", "b"]);
    await rest();
    expect(now()?.drawing).toBeNull();
  });
  it("says why it cannot be drawn", async () => {
    serverOf(json({ code: "bad", message: "These two are one color." }, 422));
    const { now } = working(["a", "b"], ["a", "b"]);
    await rest();
    expect(now()?.problem).toBe("These two are one color.");
  });
  it("no longer follows the selection once a stop is changed, and still does where another setting is", async () => {
    serverOf(json(drawing("a", "b")), json(drawing("a", "b")), json(drawing("b", "a")));
    const { now } = working(["a", "b"], ["a", "b"]);
    act(() => now()?.revise({ steps: 5 }));
    expect(now()?.state.follows).toBe(true);
    expect(now()?.recipe.steps).toBe(5);
    act(() => now()?.revise({ stops: swatchStops(["b", "a"]) }));
    expect(now()?.state.follows).toBe(false);
    act(() => now()?.take(EMPTY_RECIPE, "r9"));
    expect(now()?.state).toMatchObject({ kept: "r9", stop: null, follows: false });
    act(() => now()?.take(EMPTY_RECIPE));
    expect(now()?.state.kept).toBeNull();
    await rest();
  });
  it("is changed by the server, and a stop that was open is closed when one is added", async () => {
    const edited = { ...EMPTY_RECIPE, stops: swatchStops(["b", "a"]) };
    const sent = serverOf(json(drawing("a", "b")), json({ ramp: edited }), json(drawing("b", "a")));
    const { now } = working(["a", "b"], ["a", "b"]);
    await rest();
    act(() => now()?.set({ stop: 1 }));
    await act(async () => now()?.edit("reverse"));
    expect(sent[1]?.path).toBe(`/api/palettes/${ID}/ramps/edit`);
    expect(sent[1]?.body).toMatchObject({ edit: "reverse", share: 0.5, place: 0, count: 2 });
    expect(now()?.recipe.stops.map((stop) => stop.swatch)).toEqual(["b", "a"]);
    expect(now()?.state).toMatchObject({ stop: 1, follows: false });
    serverOf(json({ ramp: edited }));
    await act(async () => now()?.edit("add", { share: 0.25 }));
    expect(now()?.state.stop).toBeNull();
  });
  it("stays as it is where the server refuses, which is said", async () => {
    serverOf(json(drawing("a", "b")), json({ code: "bad", message: "A ramp takes at most 64 colors." }, 422));
    const { now } = working(["a", "b"], ["a", "b"]);
    await rest();
    await act(async () => now()?.edit("add"));
    expect(now()?.recipe.stops.map((stop) => stop.swatch)).toEqual(["a", "b"]);
    expect(JSON.stringify(useScreen.getState())).toContain("at most 64");
  });
  it("is the same ramp however it was drawn meanwhile, and another with other stops", async () => {
    serverOf(json(drawing("a", "b")), json(drawing("b", "a")));
    const { now } = working(["a", "b"], ["a", "b"]);
    const before = now();
    await rest();
    const drawn = now();
    if (!before || !drawn) throw new Error("There are menus.");
    expect(sameRamp({ work: before }, { work: drawn })).toBe(true);
    act(() => now()?.revise({ steps: 3 }));
    const other = now();
    if (!other) throw new Error("There are menus.");
    expect(sameRamp({ work: before }, { work: other })).toBe(false);
    await rest();
  });
});
