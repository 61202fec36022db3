import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { act } from "react";
import { createRoot, type Root } from "react-dom/client";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { ask, KEYS } from "../api/queries";
import type { Draft, Palette } from "../api/types";
import {
  type Bench,
  BenchContext,
  createBench,
  linkOf,
  shownNow,
  useCommands,
  useDrafted,
  useDraftProblem,
  useIsBusy,
  usePalette,
  useShown,
} from "./context";
import { triedRecipe, useTriedRecipes } from "./tried";

(globalThis as { IS_REACT_ACT_ENVIRONMENT?: boolean }).IS_REACT_ACT_ENVIRONMENT = true;

const ID = "11111111-1111-4111-8111-111111111111";
const swatch = (id: string) => ({ id, name: id, hex: "#000000" });
const palette = (revision: number, ids = ["a", "b"]) =>
  ({
    id: ID,
    name: "P",
    revision,
    swatches: ids.map(swatch),
    groups: [],
    slots: null,
    links: [],
    notes: [],
    ramps: [],
  }) as unknown as Palette;
const step = (name: string): Draft => ({ kind: "step", operation: { kind: "rename_palette", name } });

let queries: QueryClient;
let bench: Bench;
let end: () => void;
let answers: (() => Response | Promise<Response>)[] = [];
let sent: { path: string; body: unknown }[] = [];
const json = (body: unknown, status = 200) =>
  new Response(JSON.stringify(body), { status, headers: { "Content-Type": "application/json" } });
const rest = () => act(() => new Promise((resolve) => setTimeout(resolve)));

beforeEach(() => {
  queries = new QueryClient();
  queries.setQueryData(KEYS.palette(ID), palette(1));
  queries.setQueryData(ask.menus().queryKey, { dithers: [], choosers: [] } as never);
  answers = [];
  sent = [];
  vi.stubGlobal("fetch", async (request: Request) => {
    sent.push({ path: new URL(request.url).pathname, body: await request.clone().json() });
    const answer = answers.shift();
    if (!answer) throw new Error("The test has no further answer.");
    return answer();
  });
  bench = createBench(queries, ID, null);
  end = bench.watch();
});
afterEach(() => {
  end();
  bench.asking.stop();
  vi.unstubAllGlobals();
});

const drawn: Record<string, number> = {};

/** A view that uses one hook, and how often it is drawn. */
function Counted({ name, look }: { name: string; look: () => unknown }) {
  look();
  drawn[name] = (drawn[name] ?? 0) + 1;
  return null;
}

const nameOf = (known: Palette) => known.name;
const VIEWS = {
  name: () => usePalette(nameOf),
  shown: useShown,
  commands: useCommands,
  draft: useDrafted,
  busy: useIsBusy,
  problem: useDraftProblem,
};

describe("a draft on a bench", () => {
  it("is shown once it is answered, and put back without a trace", async () => {
    answers = [() => json({ swatches: ["b", "a"].map(swatch), groups: [] })];
    bench.commands.setDraft(step("Q"));
    await rest();
    expect(shownNow(queries, bench).map(({ id }) => id)).toEqual(["b", "a"]);
    bench.commands.discard();
    expect(shownNow(queries, bench).map(({ id }) => id)).toEqual(["a", "b"]);
    expect(bench.view.getState().draft).toBeNull();
  });

  it("goes when the palette takes another step, whoever made it", async () => {
    answers = [() => json({ swatches: [], groups: [] })];
    bench.commands.setDraft(step("Q"));
    await rest();
    queries.setQueryData(KEYS.palette(ID), palette(1));
    expect(bench.view.getState().draft).not.toBeNull();
    queries.setQueryData(KEYS.palette(ID), palette(2));
    expect(bench.view.getState().draft).toBeNull();
    expect(bench.asking.snapshot().answered).toBeNull();
  });

  it("is kept as the step that it is", async () => {
    answers = [() => json({ swatches: [], groups: [] }), () => json(palette(2))];
    bench.commands.setDraft(step("Q"));
    await rest();
    const after = await bench.commands.keep();
    expect(after?.revision).toBe(2);
    expect(sent[1]).toEqual({
      path: `/api/palettes/${ID}/operations`,
      body: { base: 1, once: expect.any(String), operation: { kind: "rename_palette", name: "Q" } },
    });
    expect(bench.view.getState()).toMatchObject({ draft: null, keeping: false });
  });

  it("that a view made is put back before something else is done; a reduction is kept", async () => {
    answers = [() => json({ swatches: [], groups: [] }), () => json(palette(2))];
    bench.commands.setDraft(step("Q"));
    await rest();
    await bench.commands.operate({ kind: "rename_palette", name: "R" });
    expect(sent.map(({ body }) => (body as { operation: { name: string } }).operation.name)).toEqual([
      "Q",
      "R",
    ]);
    const recipe = { tune: false, dither: "none" } as never;
    answers = [
      () => json({ code: "x", message: "No." }, 422),
      () => json(palette(3)),
      () => json(palette(4)),
    ];
    bench.commands.setDraft({ kind: "reduce", picture: "p", recipe });
    await rest();
    await bench.commands.operate({ kind: "rename_palette", name: "S" });
    expect(sent.slice(-2).map(({ path }) => path.split("/").at(-1))).toEqual(["reductions", "operations"]);
  });
});

describe("what is looked at", () => {
  it("is the linked picture that was chosen, else the first", () => {
    const links = [{ picture: { id: "p" } }, { picture: { id: "q" } }];
    const linked = { ...palette(1), links } as unknown as Palette;
    expect(linkOf(linked, "q")?.picture.id).toBe("q");
    expect(linkOf(linked, "gone")?.picture.id).toBe("p");
    expect(linkOf(palette(1), "q")).toBeUndefined();
  });
});

describe("views of a bench", () => {
  let root: Root;
  beforeEach(() => {
    root = createRoot(document.createElement("div"));
    act(() =>
      root.render(
        <QueryClientProvider client={queries}>
          <BenchContext value={bench}>
            {Object.entries(VIEWS).map(([name, look]) => (
              <Counted key={name} name={name} look={look} />
            ))}
          </BenchContext>
        </QueryClientProvider>,
      ),
    );
    for (const name of Object.keys(drawn)) drawn[name] = 0;
  });
  afterEach(() => act(() => root.unmount()));

  it("are drawn anew by what they look at alone", async () => {
    answers = [() => json({ swatches: ["b"].map(swatch), groups: [] })];
    act(() => bench.commands.setDraft(step("Q")));
    expect(drawn).toEqual({ name: 0, shown: 0, commands: 0, draft: 1, busy: 1, problem: 0 });
    await rest();
    expect(drawn).toMatchObject({ name: 0, commands: 0, draft: 1, problem: 0 });
    expect(drawn.shown).toBeGreaterThan(0);
    const before = { ...drawn };
    act(() => {
      queries.setQueryData(KEYS.palette(ID), { ...palette(1), label: "Another label" });
    });
    expect(drawn).toEqual(before);
  });
});

describe("what is asked for in turn", () => {
  const named = (revision: number) => () => json(palette(revision));
  const asked = () => sent.map(({ path }) => path.split("/").at(-1));

  it("is done in the order in which it was asked for, though one has to wait", async () => {
    answers = [named(2), named(3), named(4)];
    let go = () => {};
    const waits = new Promise<void>((resolve) => {
      go = resolve;
    });
    const first = bench.commands.inTurn(async ({ settle, change }) => {
      await waits;
      await settle();
      return change({ kind: "operation", operation: { kind: "rename_palette", name: "Q" } });
    });
    const undone = bench.commands.change({ kind: "undo" });
    const operated = bench.commands.operate({ kind: "rename_palette", name: "R" });
    await rest();
    expect(sent).toEqual([]);
    go();
    await act(() => Promise.all([first, undone, operated]));
    expect(asked()).toEqual(["operations", "undo", "operations"]);
  });
  it("goes on behind what failed", async () => {
    answers = [named(2)];
    const failed = bench.commands.inTurn(() => Promise.reject(new Error("No.")));
    const undone = bench.commands.change({ kind: "undo" });
    await expect(failed).rejects.toThrow("No.");
    expect((await undone)?.revision).toBe(2);
  });
  it("is kept once, though asked for twice", async () => {
    answers = [() => json({ sentence: "", swatches: [], groups: [], tables: [] }), named(2)];
    bench.commands.setDraft(step("Q"));
    await rest();
    const kept = [bench.commands.keep(), bench.commands.keep()];
    await act(() => Promise.all(kept));
    expect(asked().filter((path) => path === "operations")).toHaveLength(1);
  });
});

describe("a recipe that is tried out", () => {
  const recipe = { colors: 16 } as never;
  const reduced = () =>
    new Response(new Uint8Array(4), { status: 200, headers: { "Content-Type": "application/octet-stream" } });
  const tried = () => triedRecipe(ID, "plate");
  const reduce = { kind: "reduce", picture: "plate", recipe } as const;
  beforeEach(() => useTriedRecipes.setState({ recipes: {} }));

  it("is remembered while something else is tried out, and after a reload", async () => {
    answers = [reduced, () => json({})];
    bench.commands.tryRecipe("plate", recipe);
    bench.commands.setDraft(step("Q"));
    bench.commands.discard();
    expect(tried()).toEqual(recipe);
    expect(sessionStorage.getItem("huvren.tried")).toContain('"colors":16');
    await rest();
  });
  it("is forgotten once it is put back, and only then", async () => {
    answers = [() => json({}), reduced];
    bench.commands.tryRecipe("plate", recipe);
    bench.commands.setDraft(step("Q"));
    bench.commands.putBack();
    expect(tried()).toEqual(recipe);
    bench.commands.tryRecipe("plate", recipe);
    bench.commands.putBack();
    expect(tried()).toBeNull();
    expect(triedRecipe(ID, undefined)).toBeNull();
    await rest();
  });
  it("is forgotten once it is kept, and remembered where it could not be", async () => {
    useTriedRecipes.getState().remember(ID, "plate", recipe);
    answers = [() => json({ code: "bad", message: "No." }, 422)];
    expect(await act(() => bench.commands.change(reduce))).toBeNull();
    expect(tried()).toEqual(recipe);
    answers = [() => json(palette(2))];
    await act(() => bench.commands.change(reduce));
    expect(tried()).toBeNull();
  });
});

/** Every order in which the swatches were drawn. */
const orders: string[] = [];

function Order() {
  const order = useShown()
    .map(({ id }) => id)
    .join("");
  if (orders.at(-1) !== order) orders.push(order);
  return null;
}

describe("what is moved", () => {
  const drawnOnce = async () => {
    orders.length = 0;
    const root = createRoot(document.createElement("div"));
    await act(async () =>
      root.render(
        <QueryClientProvider client={queries}>
          <BenchContext value={bench}>
            <Order />
          </BenchContext>
        </QueryClientProvider>,
      ),
    );
    return root;
  };
  const move = (id: string, to: number) => bench.commands.operate({ kind: "move_swatches", ids: [id], to });

  it("is seen before the server answers, and never back where it was", async () => {
    let answer = (_: Response) => {};
    const waits = new Promise<Response>((resolve) => {
      answer = resolve;
    });
    answers = [() => waits, () => json(palette(3, ["b", "c", "a"]))];
    queries.setQueryData(KEYS.palette(ID), palette(1, ["a", "b", "c"]));
    const root = await drawnOnce();
    await act(async () => void move("a", 1));
    expect(orders).toEqual(["abc", "bac"]);
    expect(shownNow(queries, bench).map(({ id }) => id)).toEqual(["b", "a", "c"]);
    await act(async () => void move("a", 2));
    expect(orders).toEqual(["abc", "bac", "bca"]);
    answer(json(palette(2, ["b", "a", "c"])));
    await rest();
    await rest();
    expect(orders).toEqual(["abc", "bac", "bca"]);
    expect(bench.view.getState().moves).toEqual([]);
    expect(sent.map(({ body }) => (body as { base: number }).base)).toEqual([1, 2]);
    await act(async () => root.unmount());
  });

  it("goes back where the server refuses it", async () => {
    const root = await drawnOnce();
    answers = [() => json({ code: "gone", message: "No." }, 404)];
    await act(() => move("a", 1));
    await rest();
    expect(orders).toEqual(["ab", "ba", "ab"]);
    await act(async () => root.unmount());
  });

  it("waits for the server where places are numbered", async () => {
    queries.setQueryData(KEYS.palette(ID), { ...palette(1), slots: 16 });
    const root = await drawnOnce();
    answers = [() => json({ ...palette(2, ["b", "a"]), slots: 16 })];
    const done = move("a", 5);
    expect(bench.view.getState().moves).toEqual([]);
    await act(() => done);
    await rest();
    expect(orders).toEqual(["ab", "ba"]);
    await act(async () => root.unmount());
  });
});
