import { QueryClient } from "@tanstack/react-query";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { KEYS } from "../api/keys";
import type { Palette } from "../api/types";
import { useScreen } from "../shell/store";
import { json } from "../testing/hook";
import { createBench } from "./context";
import { enter, useLines, work } from "./lines";
import { useTriedRecipes } from "./tried";

const ID = "11111111-1111-4111-8111-111111111111";
/** What arrives at a server that reads a line as a color where it has a “#”, and how long it takes to answer. */
let added: { text: string; after: number | null }[] = [];
let swatches: { id: string }[] = [];
let revision = 1;
let answersAfter: Promise<void> = Promise.resolve();
let status = 200;
let locked: boolean[] = [];
let linked: unknown[] = [];
const done = new Set<string>();
const ends: (() => void)[] = [];

function serve() {
  vi.stubGlobal("fetch", async (request: Request) => {
    const body = (await request.clone().json()) as never;
    await answersAfter;
    if (request.url.endsWith("/parse")) {
      const { text } = body as { text: string };
      const every = text.split("\n");
      const bad = every.filter((line) => !line.includes("#"));
      const wrong = bad.map((line) => ({ parts: [{ text: line, is_wrong: true }], why: "No color." }));
      const taken = every.filter((line) => line.includes("#")).join("\n");
      return json({ colors: [], wrong, taken, left: bad.join("\n") });
    }
    if (status !== 200) return json({ code: "bad", message: "No." }, status);
    const { operation, once } = body as {
      once: string;
      operation: { text: string; after: number | null; locked: boolean };
    };
    const answer = () =>
      json({ id: ID, revision, swatches, links: linked, ramps: [], groups: [], notes: [] });
    if (done.has(once)) return answer();
    done.add(once);
    locked.push(operation.locked);
    added.push({ text: operation.text, after: operation.after });
    const at = operation.after === null ? swatches.length : operation.after + 1;
    swatches = [...swatches.slice(0, at), { id: operation.text }, ...swatches.slice(at)];
    revision += 1;
    return answer();
  });
}

function bench(ids: string[] = []) {
  const queries = new QueryClient();
  swatches = ids.map((id) => ({ id }));
  queries.setQueryData(KEYS.palette(ID), {
    id: ID,
    revision,
    swatches,
    links: [],
    ramps: [],
    groups: [],
  } as unknown as Palette);
  const bench = createBench(queries, ID, null);
  ends.push(bench.watch());
  return { queries, bench };
}
const lines = () => useLines.getState().palettes[ID];
const settled = () => vi.waitFor(() => expect(lines()?.entered).toEqual([]));

beforeEach(() => {
  added = [];
  locked = [];
  linked = [];
  done.clear();
  revision = 1;
  status = 200;
  answersAfter = Promise.resolve();
  useLines.setState({ palettes: {} });
  useScreen.getState().select([]);
  sessionStorage.clear();
  serve();
});
afterEach(() => {
  for (const end of ends.splice(0)) end();
  vi.unstubAllGlobals();
});

describe("lines that are entered", () => {
  it("go in one after the other, each behind the one before, however fast they come", async () => {
    const { queries, bench: on } = bench(["a", "z"]);
    useScreen.getState().select(["a"]);
    for (const line of ["One #1", "Two #2", "Three #3"]) enter(queries, on, line);
    expect(lines()?.entered.map((line) => line.text)).toEqual(["One #1", "Two #2", "Three #3"]);
    await settled();
    expect(swatches.map((swatch) => swatch.id)).toEqual(["a", "One #1", "Two #2", "Three #3", "z"]);
    expect(useScreen.getState().selected).toEqual(["Three #3"]);
  });
  it("go to the end where nothing is selected, and blank ones nowhere", async () => {
    const { queries, bench: on } = bench(["a"]);
    enter(queries, on, "  \n");
    enter(queries, on, "One #1");
    await settled();
    expect(added).toEqual([{ text: "One #1", after: null }]);
  });
  it("stay behind what was selected when they were entered", async () => {
    const { queries, bench: on } = bench(["a", "z"]);
    useScreen.getState().select(["a"]);
    enter(queries, on, "One #1");
    useScreen.getState().select(["z"]);
    await settled();
    expect(added[0]?.after).toBe(0);
  });
  it("select nothing on the bench that is open by then", async () => {
    const { queries, bench: on } = bench(["a"]);
    enter(queries, on, "One #1");
    for (const end of ends.splice(0)) end();
    useScreen.getState().select(["of another palette"]);
    await settled();
    expect(added).toHaveLength(1);
    expect(useScreen.getState().selected).toEqual(["of another palette"]);
  });
  it("that are no colors are left to be mended, whole, and hold back no other", async () => {
    const { queries, bench: on } = bench();
    enter(queries, on, "One #1\nGold size\nTwo #2");
    enter(queries, on, "Nothing");
    enter(queries, on, "Three #3");
    await settled();
    expect(added.map((entry) => entry.text)).toEqual(["One #1\nTwo #2", "Three #3"]);
    expect(lines()?.refused.map(({ text, why }) => [text, why])).toEqual([
      ["Gold size", "No color."],
      ["Nothing", "No color."],
    ]);
  });
  it("that the server does not take are left to be mended", async () => {
    const { queries, bench: on } = bench();
    status = 422;
    enter(queries, on, "One #1\nTwo #2");
    await settled();
    expect(
      lines()?.refused.map((line) => line.text),
      "each by itself",
    ).toEqual(["One #1", "Two #2"]);
    expect(lines()?.refused[0]?.why).toContain("not added");
  });
  it.each([
    ["at the end", ["a", "z"], null, ["a", "z", "In #1\nToo #1", "New #3", "Last #4"]],
    ["in the middle", ["a", "z"], "a", ["a", "In #1\nToo #1", "New #3", "Last #4", "z"]],
  ])(
    "outlast a reload %s: one that was sent goes in once, and those behind it in order",
    async (_where, ids, behind, wanted) => {
      const { queries, bench: on } = bench(ids);
      // It is in, though the page that sent it never heard of it.
      const at = behind === null ? ids.length : 1;
      swatches = [...ids.slice(0, at), "In #1\nToo #1", ...ids.slice(at)].map((id) => ({ id }));
      done.add("1");
      revision = 2;
      queries.setQueryData(KEYS.palette(ID), (before) => ({
        ...(before as unknown as Palette),
        swatches,
        revision,
      }));
      // A bench that opens shows its first swatch.
      useScreen.getState().select(["a"]);
      const entered = [
        { id: "1", text: "In #1\nToo #1", behind: null, sent: { behind, count: ids.length } },
        { id: "2", text: "New #3", behind: undefined },
        { id: "3", text: "Last #4", behind: undefined },
      ];
      useLines.getState().put(ID, () => ({ entered }));
      expect(
        JSON.parse(sessionStorage.getItem("huvren.typed") ?? "{}").state.palettes[ID].entered,
      ).toHaveLength(3);
      void work(queries, on);
      void work(queries, on);
      await settled();
      expect(swatches.map((swatch) => swatch.id)).toEqual(wanted);
      expect(lines()?.refused).toEqual([]);
    },
  );
  it("that were sent and never came go where they were sent to", async () => {
    const { queries, bench: on } = bench(["a", "z"]);
    useScreen.getState().select(["z"]);
    const sent = { behind: "a", count: 2 };
    useLines.getState().put(ID, () => ({ entered: [{ id: "1", text: "One #1", behind: undefined, sent }] }));
    void work(queries, on);
    await settled();
    expect(swatches.map((swatch) => swatch.id)).toEqual(["a", "One #1", "z"]);
  });
  it("know where they go before they are sent, for the page after this one", async () => {
    const { queries, bench: on } = bench(["a", "z"]);
    useScreen.getState().select(["a"]);
    for (const line of ["One #1", "Two #2", "Three #3"]) enter(queries, on, line);
    const seen: unknown[] = [];
    const end = useLines.subscribe(({ palettes }) => seen.push(palettes[ID]?.entered));
    await settled();
    end();
    for (const [text, behind] of [
      ["Two #2", "One #1"],
      ["Three #3", "Two #2"],
    ])
      expect(seen).toContainEqual([
        expect.objectContaining({ text, behind }),
        ...(text === "Two #2" ? [expect.anything()] : []),
      ]);
  });
  it("that are to be kept are locked, and the recipe is tried out with them at once", async () => {
    const { queries, bench: on } = bench(["a"]);
    const tryRecipe = vi.spyOn(on.commands, "tryRecipe").mockImplementation(() => {});
    const settle = vi.spyOn(on.commands, "settle");
    linked = [{ picture: { id: "plate" }, recipe: { colors: 24 } }];
    enter(queries, on, "Lamp #1\nNothing", { locked: true });
    await settled();
    expect(added).toEqual([{ text: "Lamp #1", after: null }]);
    expect(locked).toEqual([true]);
    expect(tryRecipe).toHaveBeenCalledWith("plate", { colors: 24 });
    expect(settle).not.toHaveBeenCalled();
    expect(lines()?.refused[0]).toMatchObject({ text: "Nothing", locked: true });
    useTriedRecipes.getState().remember(ID, "plate", { colors: 16 } as never);
    enter(queries, on, "Lamp #2", { locked: true });
    await settled();
    expect(tryRecipe).toHaveBeenLastCalledWith("plate", { colors: 16 });
  });
  it("are kept with what stands in the field, unless that is too long to be", () => {
    useLines.getState().put(ID, () => ({ text: "Lamp" }));
    const kept = () => JSON.parse(sessionStorage.getItem("huvren.typed") ?? "{}").state.palettes[ID].text;
    expect(kept()).toBe("Lamp");
    useLines.getState().put(ID, () => ({ text: "#fff ".repeat(5_000) }));
    expect(kept()).toBe("");
  });
});
