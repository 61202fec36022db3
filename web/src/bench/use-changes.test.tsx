import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { act } from "react";
import { createRoot, type Root } from "react-dom/client";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { Change } from "../api/commands";
import { KEYS } from "../api/queries";
import type { Palette } from "../api/types";
import { useScreen } from "../shell/store";
import { makeChange, RETRY_MS, type SaveState, useSaveState } from "./use-changes";

(globalThis as { IS_REACT_ACT_ENVIRONMENT?: boolean }).IS_REACT_ACT_ENVIRONMENT = true;

const ID = "11111111-1111-4111-8111-111111111111";

function palette(revision: number, label = "") {
  return { id: ID, revision, label, swatches: [], ramps: [], links: [], notes: [] } as unknown as Palette;
}

/** The network: each request is answered by the next entry; a function throws or answers. */
let answers: ((body: { base: number }) => Response)[] = [];
let sent: { base: number; path: string; once: string }[] = [];
const json = (body: unknown, status = 200) =>
  new Response(JSON.stringify(body), { status, headers: { "Content-Type": "application/json" } });
const unreachable = () => {
  throw new TypeError("Failed to fetch");
};

let change: (wanted: Change) => Promise<Palette | null>;
let states: SaveState[] = [];
let root: Root;
let queries: QueryClient;

function Probe() {
  const saveState = useSaveState(ID);
  if (states.at(-1) !== saveState) states.push(saveState);
  return null;
}

const undo: Change = { kind: "undo" };

beforeEach(() => {
  vi.useFakeTimers();
  answers = [];
  sent = [];
  states = [];
  useScreen.setState({ notices: [] });
  vi.stubGlobal("fetch", async (request: Request) => {
    const body = (await request.clone().json()) as { base: number; once: string };
    sent.push({ base: body.base, once: body.once, path: new URL(request.url).pathname });
    const answer = answers.shift();
    if (!answer) throw new Error("The test has no further answer.");
    return answer(body);
  });
  queries = new QueryClient();
  queries.setQueryData(KEYS.palette(ID), palette(1));
  change = makeChange(queries, ID);
  root = createRoot(document.createElement("div"));
  act(() =>
    root.render(
      <QueryClientProvider client={queries}>
        <Probe />
      </QueryClientProvider>,
    ),
  );
});

afterEach(() => {
  act(() => root.unmount());
  vi.useRealTimers();
  vi.unstubAllGlobals();
});

async function pass(milliseconds: number) {
  await act(async () => {
    await vi.advanceTimersByTimeAsync(milliseconds);
  });
}

describe("steps of a palette", () => {
  it("wait while the server is away, and go through in order when it is back", async () => {
    answers = [unreachable, unreachable, () => json(palette(2)), () => json(palette(3))];
    const ended: (Palette | null)[] = [];
    await act(async () => {
      void change(undo).then((made) => ended.push(made));
      void change(undo).then((made) => ended.push(made));
    });
    await pass(10);
    expect(states.at(-1)).toBe("waiting");
    expect(sent).toHaveLength(1);
    await pass(RETRY_MS + 10);
    expect(sent).toHaveLength(2);
    await pass(RETRY_MS + 10);
    await pass(10);
    expect(ended.map((made) => made?.revision)).toEqual([2, 3]);
    expect(sent.map((request) => request.base)).toEqual([1, 1, 1, 2]);
    const [first, ...later] = sent.map((request) => request.once);
    expect(first).toMatch(/^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$/);
    expect(
      later.map((once) => once === first),
      "a step has one id, however often it is sent",
    ).toEqual([true, true, false]);
    expect(states.at(-1)).toBe("saved");
    expect(useScreen.getState().notices).toEqual([]);
  });

  it("wait out a server that says it is not ready", async () => {
    answers = [() => json({ code: "database_away", message: "away" }, 503), () => json(palette(2))];
    let made: Palette | null = null;
    await act(async () => {
      void change(undo).then((answer) => {
        made = answer;
      });
    });
    await pass(RETRY_MS + 20);
    expect((made as Palette | null)?.revision).toBe(2);
  });

  it("are not sent again for a fault of our own, nor for a refusal", async () => {
    answers = [() => new Response("{", { status: 200, headers: { "Content-Type": "application/json" } })];
    let made: Palette | null | undefined;
    await act(async () => {
      made = await change(undo);
    });
    await pass(RETRY_MS * 3);
    expect(made).toBeNull();
    expect(sent).toHaveLength(1);
    answers = [() => json({ code: "bad_input", message: "There is nothing to undo." }, 422)];
    await act(async () => {
      made = await change(undo);
    });
    await pass(RETRY_MS * 3);
    expect(sent).toHaveLength(2);
    expect(useScreen.getState().notices.at(-1)?.text).toBe("There is nothing to undo.");
    expect(states.at(-1)).toBe("saved");
  });

  it("stand, though an older state that was asked for before them arrives after them", async () => {
    answers = [() => json(palette(2))];
    let arrive: (older: Palette) => void = () => {};
    const older = queries.fetchQuery({
      queryKey: KEYS.palette(ID),
      queryFn: () => new Promise<Palette>((resolve) => (arrive = resolve)),
    });
    const ended = older.catch(() => null);
    await act(async () => {
      await change(undo);
    });
    arrive(palette(1));
    await ended;
    await pass(20);
    expect(queries.getQueryData<Palette>(KEYS.palette(ID))?.revision).toBe(2);
  });

  it("made on a state that is no longer the newest show the newer one, and can be made again on it", async () => {
    answers = [
      () => json({ code: "stale_revision", message: "Changed elsewhere.", current: palette(7) }, 409),
      () => json(palette(8)),
    ];
    await act(async () => {
      await change(undo);
    });
    expect(queries.getQueryData<Palette>(KEYS.palette(ID))?.revision).toBe(7);
    const notice = useScreen.getState().notices.at(-1);
    expect(notice?.text).toBe("Changed elsewhere.");
    await act(async () => notice?.action?.run());
    await pass(20);
    expect(sent.map((request) => request.base)).toEqual([1, 7]);
    expect(queries.getQueryData<Palette>(KEYS.palette(ID))?.revision).toBe(8);
  });
});
