import { QueryClient, skipToken } from "@tanstack/react-query";
import { act } from "react";
import { beforeEach, describe, expect, it, vi } from "vitest";
import { KEYS } from "../../api/queries";
import { type Bench, BenchContext, createBench } from "../../bench/context";
import { used } from "../../testing/hook";
import { type Derivation, useDerivation } from "./use-derivation";

const ID = "11111111-1111-4111-8111-111111111111";
const GRAYS = { kind: "grays", count: 3 } as unknown as Derivation;
const palette = (label: string, ids: string[]) => ({
  id: ID,
  revision: ids.length,
  label,
  links: [],
  groups: [],
  swatches: ids.map((id) => ({ id, name: id })),
});
const setDraft = vi.fn();
const discard = vi.fn();
let queries: QueryClient;

/** The hook on a bench that has been answered with a proposal, or with none. */
function derive(proposal: { sentence: string; swatches: { id: string }[] } | null) {
  const key = ["answered"];
  queries.setQueryData(key, proposal && { kind: "step", proposal });
  const asked = {
    answered: proposal ? { queryKey: key, queryFn: skipToken } : null,
    failed: null,
    busy: false,
  };
  const bench = {
    ...createBench(queries, ID, null),
    asking: { subscribe: () => () => undefined, snapshot: () => asked },
    commands: { setDraft, discard },
  } as unknown as Bench;
  return used((derivation: Derivation | null) => useDerivation(derivation), GRAYS as Derivation | null, {
    queries,
    around: (inner) => <BenchContext value={bench}>{inner}</BenchContext>,
  });
}

beforeEach(() => {
  vi.clearAllMocks();
  queries = new QueryClient();
  queries.setQueryData(KEYS.palette(ID), palette("Typed", ["a"]));
});

describe("what a derivation would add", () => {
  it("is asked for as a draft, and put back with the view", () => {
    const { end } = derive(null);
    expect(setDraft).toHaveBeenCalledExactlyOnceWith({
      kind: "step",
      operation: { kind: "derive_swatches", derivation: GRAYS, group: "" },
    });
    end();
    expect(discard).toHaveBeenCalledOnce();
  });
  it("is what the palette has not got", () => {
    const { now } = derive({ sentence: "Added 2 grays", swatches: [{ id: "a" }, { id: "b" }, { id: "c" }] });
    expect(now().added.map((swatch) => swatch.id)).toEqual(["b", "c"]);
  });
  it("is nothing where nothing is wanted", () => {
    const { draw, now } = derive(null);
    draw(null);
    expect(discard).toHaveBeenCalledOnce();
    expect(now().added).toEqual([]);
  });
  it("is not offered a second time once it has been added, until something of it changes", () => {
    const { draw } = derive({ sentence: "Added 2 grays", swatches: [{ id: "a" }, { id: "b" }] });
    setDraft.mockClear();
    act(() => queries.setQueryData(KEYS.palette(ID), palette("Added 2 grays", ["a", "b"])));
    draw(GRAYS);
    expect(setDraft).not.toHaveBeenCalled();
    draw({ ...GRAYS, count: 4 } as unknown as Derivation);
    expect(setDraft).toHaveBeenCalledOnce();
  });
});
