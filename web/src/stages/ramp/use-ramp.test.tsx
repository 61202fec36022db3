import { QueryClient } from "@tanstack/react-query";
import { act } from "react";
import { afterEach, beforeEach, describe, expect, it } from "vitest";
import { KEYS } from "../../api/queries";
import { BenchContext, createBench } from "../../bench/context";
import { useScreen } from "../../shell/store";
import { used } from "../../testing/hook";
import { useRamps } from "./store";
import { useStopsFromSelection } from "./use-ramp";

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
