import { QueryClient } from "@tanstack/react-query";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { ask, KEYS } from "./queries";
import { Problem } from "./request";
import type { Operation, Recipe } from "./types";

const stand = { id: "11111111-1111-4111-8111-111111111111", revision: 4 };
const later = { ...stand, revision: 5 };
const picture = "22222222-2222-4222-8222-222222222222";
const recipe = { colors: 7 } as Recipe;
const request = { ids: null, options: {}, picture: null, variants: [], joined: false };
const looking = { q: "", sort: "newest", trash: false } as const;
const operation = { kind: "rename_palette", name: "x" } as Operation;

let sent: { method: string; path: string; body: unknown }[];
let answer: () => Response;

beforeEach(() => {
  sent = [];
  answer = () =>
    new Response(JSON.stringify({ document: {}, cards: [] }), {
      headers: { "Content-Type": "application/json" },
    });
  vi.stubGlobal("fetch", async (asked: Request) => {
    const url = new URL(asked.url);
    const text = await asked.clone().text();
    sent.push({
      method: asked.method,
      path: url.pathname + url.search,
      body: text ? JSON.parse(text) : null,
    });
    return answer();
  });
});
afterEach(() => vi.unstubAllGlobals());

async function fetched(options: unknown) {
  await new QueryClient().fetchQuery(options as Parameters<QueryClient["fetchQuery"]>[0]);
  return sent.at(-1);
}

describe("questions to the server", () => {
  it("ask at the address that their key stands for", async () => {
    const base = `/api/palettes/${stand.id}`;
    const rows: [unknown, string, string][] = [
      [ask.session(), "GET", "/api/session"],
      [ask.menus(), "GET", "/api/menus"],
      [ask.cards("palettes"), "GET", "/api/shelf/palettes?q=&sort=latest&limit=60"],
      [ask.cards("ramps", "near #c48a3a"), "GET", "/api/shelf/ramps?q=near%20%23c48a3a&sort=latest&limit=60"],
      [ask.named("palettes", ["a", "b"]), "GET", "/api/shelf/palettes/named?ids=a%2Cb"],
      [ask.named("pictures", ["a"]), "GET", "/api/shelf/pictures/named?ids=a"],
      [ask.rampsOf(stand.id), "GET", `/api/shelf/palettes/${stand.id}/ramps`],
      [ask.foundIds("moth", true), "GET", "/api/shelf/ids?q=moth&trash=true"],
      [ask.recipes(), "GET", "/api/recipes"],
      [ask.jobs(), "GET", "/api/jobs"],
      [ask.palette(stand.id), "GET", base],
      [ask.history(stand.id), "GET", `${base}/history`],
      [ask.document(stand.id), "GET", `${base}/document`],
      [ask.document(stand.id, 3), "GET", `${base}/document?step=3`],
      [ask.parsed("#fff red"), "POST", "/api/colors/parse"],
      [ask.compared("#000", "#fff"), "GET", "/api/colors/compare?first=%23000&second=%23fff"],
      [
        ask.companions("red", "triad", 30, null),
        "GET",
        "/api/colors/companions?base=red&scheme=triad&spread=30",
      ],
      [ask.mixed(["#fff", "#000"], [1, 2], 5), "POST", "/api/colors/mix"],
      [ask.matches(stand, { id: "o", document: {} }), "POST", `${base}/match`],
      [ask.mergeTree(stand, null), "POST", `${base}/merge-tree`],
      [ask.proposed(stand, operation, ["k"]), "POST", `${base}/operations/preview`],
      [ask.proofs(picture), "GET", `/api/pictures/${picture}/proofs`],
      [ask.proposedSize(stand, picture, recipe), "POST", `${base}/previews/size`],
      [ask.figures(stand, picture), "GET", `${base}/pictures/${picture}/figures`],
      [ask.curve(stand.id, picture), "GET", `${base}/pictures/${picture}/curve`],
      [ask.indices(stand.id, "m"), "GET", `${base}/maps/m`],
      [ask.report(stand, "gpl", request), "POST", `${base}/files/gpl/report`],
      [ask.file(stand, "gpl", request), "POST", `${base}/files/gpl`],
    ];
    for (const [options, method, path] of rows) {
      const seen = await fetched({
        ...(options as object),
        queryFn: (options as { queryFn: unknown }).queryFn,
        staleTime: 0,
      }).catch(() => sent.at(-1));
      expect([seen?.method, seen?.path]).toEqual([method, path]);
    }
  });

  it("have keys of their own", () => {
    const keys = [
      ask.session(),
      ask.menus(),
      ask.pages("palettes", looking),
      ask.pages("pictures", looking),
      ask.pages("palettes", { ...looking, trash: true }),
      ask.pages("palettes", { ...looking, q: "#fff" }),
      ask.cards("palettes"),
      ask.cards("palettes", "#fff"),
      ask.named("palettes", ["a"]),
      ask.named("pictures", ["a"]),
      ask.rampsOf(stand.id),
      ask.foundIds("", false),
      ask.recipes(),
      ask.jobs(),
      ask.palette(stand.id),
      ask.history(stand.id),
      ask.document(stand.id),
      ask.document(stand.id, 1),
      ask.parsed("a"),
      ask.parsed("b"),
      ask.compared("a", "b"),
      ask.compared("b", "a"),
      ask.mergeTree(stand, null),
      ask.mergeTree(stand, ["a"]),
      ask.proofs(picture),
      ask.figures(stand, picture),
      ask.curve(stand.id, picture),
      ask.report(stand, "gpl", request),
      ask.file(stand, "gpl", request),
      ask.report(stand, "css", request),
      ask.proposed(stand, operation, []),
    ].map((options) => JSON.stringify(options.queryKey));
    expect(new Set(keys).size).toBe(keys.length);
  });

  it("about a palette are asked anew when it has changed", () => {
    for (const make of [
      (at: typeof stand) => ask.mergeTree(at, null),
      (at: typeof stand) => ask.figures(at, picture),
      (at: typeof stand) => ask.proposedSize(at, picture, recipe),
      (at: typeof stand) => ask.report(at, "gpl", request),
      (at: typeof stand) => ask.matches(at, null),
      (at: typeof stand) => ask.proof(at, picture, recipe),
      (at: typeof stand) => ask.proposed(at, operation, []),
    ])
      expect(make(stand).queryKey).not.toEqual(make(later).queryKey);
  });

  it("that have nothing to ask about wait", () => {
    expect(ask.parsed("").enabled).toBe(false);
    expect(ask.parsed("#fff").enabled).toBe(true);
    expect(ask.matches(stand, null).enabled).toBe(false);
    expect(ask.proposed(null, operation, []).enabled).toBe(false);
    expect(ask.proposed(stand, null, []).enabled).toBe(false);
    expect(ask.indices(stand.id, undefined).enabled).toBe(false);
    expect(ask.original(undefined, false).enabled).toBe(false);
  });

  it("for many cards by their ids are as many as it takes", async () => {
    const ids = Array.from({ length: 230 }, (_, place) => `id${place}`);
    await fetched(ask.named("palettes", ids));
    const asked = sent.map(({ path }) => new URL(path, "http://x").searchParams.get("ids")?.split(",") ?? []);
    expect(asked.map((some) => some.length)).toEqual([100, 100, 30]);
    expect(asked.flat()).toEqual(ids);
  });

  it("about the shelf go on page by page, the first one small, until there are no more", async () => {
    const page = { cards: [{ id: "a" }], found: 2, all: 2 };
    const nexts = ["there", null];
    answer = () =>
      new Response(JSON.stringify({ ...page, next: nexts.shift() }), {
        headers: { "Content-Type": "application/json" },
      });
    const options = ask.pages("palettes", { ...looking, q: "moth" });
    const asked = await new QueryClient().fetchInfiniteQuery({ ...options, pages: 2 });
    expect(asked.pages).toHaveLength(2);
    expect(sent.map((entry) => entry.path)).toEqual([
      "/api/shelf/palettes?q=moth&sort=newest&trash=false&cursor=&limit=60",
      "/api/shelf/palettes?q=moth&sort=newest&trash=false&cursor=there&limit=200",
    ]);
    expect(options.getNextPageParam(asked.pages[1] as never, [], "", [])).toBeNull();
  });

  it("are forgotten together by what they begin with", async () => {
    const queries = new QueryClient();
    for (const options of [ask.pages("ramps", looking), ask.cards("ramps"), ask.rampsOf("a")])
      queries.setQueryData<unknown>(options.queryKey, { palettes: [], pictures: [] });
    queries.setQueryData(KEYS.recipes, []);
    await queries.invalidateQueries({ queryKey: KEYS.shelf });
    const stale = queries
      .getQueryCache()
      .getAll()
      .filter((query) => query.state.isInvalidated);
    expect(stale).toHaveLength(3);
  });

  it("answer a refusal with the server's own words", async () => {
    answer = () =>
      new Response(JSON.stringify({ code: "unknown", message: "There is no such palette on your shelf." }), {
        status: 404,
        headers: { "Content-Type": "application/problem+json" },
      });
    const failing = new QueryClient({ defaultOptions: { queries: { retry: false } } });
    const problem = await failing.fetchQuery(ask.palette(stand.id)).catch((error: unknown) => error);
    expect(problem).toBeInstanceOf(Problem);
    expect((problem as Problem).message).toBe("There is no such palette on your shelf.");
    expect((problem as Problem).code).toBe("unknown");
  });
});
