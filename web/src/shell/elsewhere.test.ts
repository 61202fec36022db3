import { QueryClient } from "@tanstack/react-query";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { KEYS } from "../api/queries";
import { keepUp, tellTabs } from "./elsewhere";

const ID = "00000000-0000-4000-8000-000000000001";

class Source {
  static readonly CLOSED = 2;
  static all: Source[] = [];
  onmessage: ((event: { data: string }) => void) | null = null;
  onerror: (() => void) | null = null;
  onopen: (() => void) | null = null;
  readyState = 1;
  constructor(readonly url: string) {
    Source.all.push(this);
  }
  close() {
    this.readyState = Source.CLOSED;
  }
  tell(told: object) {
    this.onmessage?.({ data: JSON.stringify(told) });
  }
}

/** The browser's locks, one after the other. */
class Locks {
  private last: Promise<unknown> = Promise.resolve();
  request(_name: string, { signal }: { signal: AbortSignal }, work: () => Promise<void>) {
    const turn = this.last.then(() => (signal.aborted ? Promise.reject(new Error("not wanted")) : work()));
    this.last = turn.catch(() => undefined);
    return turn;
  }
}

let queries: QueryClient;
let asked: ReturnType<typeof vi.spyOn>;
let stop: () => void;
const newest = () => Source.all.at(-1) as Source;
const fetched = (key: readonly string[]) =>
  asked.mock.calls.filter(([filters]: [{ queryKey: string[] }]) => filters.queryKey.join() === key.join())
    .length;
const wait = (ms: number) => vi.advanceTimersByTimeAsync(ms);

beforeEach(async () => {
  vi.useFakeTimers();
  Object.defineProperty(navigator, "locks", { value: new Locks(), configurable: true });
  vi.stubGlobal("EventSource", Source);
  Source.all = [];
  queries = new QueryClient();
  queries.setQueryData(KEYS.palette(ID), { id: ID, revision: 4 });
  asked = vi.spyOn(queries, "invalidateQueries");
  stop = keepUp(queries, ID);
  await wait(0);
});
afterEach(() => {
  stop();
  vi.useRealTimers();
  vi.unstubAllGlobals();
});

describe("what is made elsewhere", () => {
  it("is fetched once for steps that follow each other", async () => {
    expect(newest().url).toBe(`/api/changes?palette=${ID}`);
    newest().tell({ what: "step", palette: ID, revision: 4 });
    await wait(200);
    expect(fetched(KEYS.palette(ID))).toBe(0);
    for (const revision of [5, 6, 7]) newest().tell({ what: "step", palette: ID, revision });
    await wait(200);
    expect(fetched(KEYS.palette(ID))).toBe(1);
    expect(fetched(KEYS.history(ID))).toBe(1);
  });

  it("is fetched to the end, and once more for what came meanwhile", async () => {
    const answers: (() => void)[] = [];
    asked.mockImplementation(() => new Promise<void>((done) => answers.push(done)));
    for (const revision of [5, 6, 7, 8]) {
      newest().tell({ what: "step", palette: ID, revision });
      await wait(200);
    }
    expect(fetched(KEYS.palette(ID)), "one is not broken off for the next").toBe(1);
    expect(fetched(KEYS.shelf)).toBe(1);
    for (const answer of answers.splice(0)) answer();
    await wait(200);
    expect(fetched(KEYS.palette(ID))).toBe(2);
    expect(fetched(KEYS.shelf)).toBe(2);
    queries.setQueryData(KEYS.palette(ID), { id: ID, revision: 8 });
    for (const answer of answers.splice(0)) answer();
    await wait(200);
    expect(fetched(KEYS.palette(ID))).toBe(2);
  });

  it("waits for a step of one's own, whose answer may bring the same", async () => {
    let answer = () => {};
    const mutation = queries.getMutationCache().build(queries, {
      mutationKey: KEYS.changes(ID),
      mutationFn: () => new Promise<void>((done) => (answer = done)),
    });
    const done = mutation.execute(undefined);
    newest().tell({ what: "step", palette: ID, revision: 5 });
    await wait(500);
    expect(fetched(KEYS.palette(ID))).toBe(0);
    queries.setQueryData(KEYS.palette(ID), { id: ID, revision: 5 });
    answer();
    await done;
    await wait(500);
    expect(fetched(KEYS.palette(ID))).toBe(0);
    newest().tell({ what: "step", palette: ID, revision: 6 });
    await wait(500);
    expect(fetched(KEYS.palette(ID))).toBe(1);
  });

  it("is no step of one's own that is told late, and is one that is taken back elsewhere", async () => {
    const own = (revision: number) => {
      queries.setQueryData(KEYS.palette(ID), { id: ID, revision });
      tellTabs(ID, revision);
    };
    const tell = async (revision: number) => {
      newest().tell({ what: "step", palette: ID, revision });
      await wait(200);
    };
    for (const revision of [5, 6, 7]) own(revision);
    for (const revision of [5, 6, 7]) await tell(revision);
    expect(fetched(KEYS.palette(ID)), "each told after the next was made").toBe(0);
    own(8);
    await tell(8);
    await tell(7);
    expect(fetched(KEYS.palette(ID)), "taken back elsewhere").toBe(1);
    own(8);
    await tell(9);
    expect(fetched(KEYS.palette(ID)), "followed by one elsewhere").toBe(2);
  });

  it("counts steps that were told before their answer came, and forgets them after an interruption", async () => {
    const tell = async (revision: number) => {
      newest().tell({ what: "step", palette: ID, revision });
      await wait(200);
    };
    for (const revision of [5, 6]) newest().tell({ what: "step", palette: ID, revision });
    queries.setQueryData(KEYS.palette(ID), { id: ID, revision: 6 });
    for (const revision of [5, 6]) tellTabs(ID, revision);
    await tell(5);
    expect(fetched(KEYS.palette(ID)), "both were told: this takes the second back").toBe(1);
    for (const revision of [7, 8]) tellTabs(ID, revision);
    queries.setQueryData(KEYS.palette(ID), { id: ID, revision: 8 });
    newest().tell({ what: "begun" });
    await tell(7);
    expect(fetched(KEYS.palette(ID)), "the announcements of 7 and 8 were missed").toBe(2);
  });

  it("is fetched whatever it is where nobody knows", async () => {
    newest().tell({ what: "anything" });
    await wait(200);
    expect(fetched(KEYS.palette(ID))).toBe(1);
    expect(fetched(KEYS.shelf)).toBe(1);
    newest().tell({ what: "shelf" });
    await wait(200);
    expect(fetched(KEYS.palette(ID)), "once").toBe(1);
  });

  it("does not fetch the shelf twice when a page begins, and does after an interruption", async () => {
    newest().tell({ what: "begun" });
    await wait(200);
    expect(fetched(KEYS.shelf)).toBe(0);
    await wait(5_000);
    newest().tell({ what: "begun" });
    await wait(200);
    expect(fetched(KEYS.shelf)).toBe(1);
  });

  it("is heard by one window for all of the browser, and by the next when that is gone", async () => {
    const tabs = new BroadcastChannel("huvren.steps");
    const passed: unknown[] = [];
    tabs.onmessage = ({ data }) => passed.push(data);
    const other = keepUp(queries, null);
    await wait(10);
    expect(Source.all.length, "the other window waits").toBe(1);
    newest().onopen?.();
    newest().tell({ what: "step", palette: ID, revision: 5 });
    vi.useRealTimers();
    await vi.waitFor(() =>
      expect(passed).toEqual([{ what: "anything" }, { what: "step", palette: ID, revision: 5 }]),
    );
    stop();
    await vi.waitFor(() => expect(Source.all.map(({ url }) => url)).toHaveLength(2));
    expect(Source.all[0]?.readyState).toBe(Source.CLOSED);
    expect(newest().url).toBe("/api/changes");
    other();
    tabs.close();
  });

  it("asks again later where it was refused, and not while the window cannot be seen", async () => {
    newest().close();
    newest().onerror?.();
    await wait(31_000);
    expect(Source.all.length).toBe(2);
    const seen = vi.spyOn(document, "visibilityState", "get").mockReturnValue("hidden");
    document.dispatchEvent(new Event("visibilitychange"));
    expect(newest().readyState).toBe(Source.CLOSED);
    expect(Source.all.length).toBe(2);
    seen.mockReturnValue("visible");
    document.dispatchEvent(new Event("visibilitychange"));
    await wait(0);
    expect(Source.all.length).toBe(3);
    seen.mockRestore();
  });

  it("is not heard by a window that has gone while it waited", async () => {
    const other = keepUp(queries, null);
    await wait(10);
    other();
    stop();
    await wait(10);
    expect(Source.all.length).toBe(1);
    expect(newest().readyState).toBe(Source.CLOSED);
  });

  it("is heard by each window for itself where a page has no locks", async () => {
    Object.defineProperty(navigator, "locks", { value: undefined, configurable: true });
    const other = keepUp(queries, null);
    expect(Source.all.length).toBe(2);
    other();
    expect(newest().readyState).toBe(Source.CLOSED);
  });

  it("tells at once what it was about to tell when another palette is looked at", () => {
    newest().tell({ what: "step", palette: ID, revision: 9 });
    stop();
    expect(fetched(KEYS.palette(ID))).toBe(1);
  });
});
