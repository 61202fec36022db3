import { QueryClient, QueryClientProvider, queryOptions } from "@tanstack/react-query";
import { act } from "react";
import { createRoot, type Root } from "react-dom/client";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { Asking, serialOf, useNewest } from "./asking";

(globalThis as { IS_REACT_ACT_ENVIRONMENT?: boolean }).IS_REACT_ACT_ENVIRONMENT = true;

interface Waiting {
  wish: number;
  signal: AbortSignal;
  resolve: (answer: string) => void;
  reject: (error: Error) => void;
}

let queries: QueryClient;
let waiting: Waiting[] = [];
const rest = () => act(() => new Promise((resolve) => setTimeout(resolve)));

function question(wish: number) {
  return queryOptions({
    queryKey: ["test", wish],
    queryFn: ({ signal }) =>
      new Promise<string>((resolve, reject) => {
        waiting.push({ wish, signal, resolve, reject });
      }),
    staleTime: Number.POSITIVE_INFINITY,
  });
}

beforeEach(() => {
  queries = new QueryClient();
  waiting = [];
});

let seen: (string | undefined)[] = [];
let error: Error | null = null;

function View({ wish, after = 0 }: { wish: number | null; after?: number }) {
  const live = useNewest<string>(String(wish), wish === null ? null : question(wish), { after });
  if (seen.at(-1) !== live.answer) seen.push(live.answer);
  error = live.error;
  return null;
}

describe("asking", () => {
  it("asks one question at a time, and of those that wait the newest", async () => {
    const asking = new Asking<string>(queries);
    asking.want(question(1));
    asking.want(question(2));
    asking.want(question(3));
    await rest();
    expect(waiting.map(({ wish }) => wish)).toEqual([1]);
    expect(asking.snapshot().busy).toBe(true);
    waiting[0]?.resolve("one");
    await rest();
    expect(waiting.map(({ wish }) => wish)).toEqual([1, 3]);
    waiting[1]?.resolve("three");
    await rest();
    expect(asking.snapshot()).toMatchObject({
      answered: { queryKey: ["test", 3] },
      failed: null,
      busy: false,
    });
    expect(queries.getQueryData(["test", 3])).toBe("three");
  });

  it("shows the quick answer until the one that was meant is there", async () => {
    const asking = new Asking<string>(queries);
    asking.want(question(2), question(1));
    await rest();
    waiting[0]?.resolve("quick");
    await rest();
    expect(asking.snapshot()).toMatchObject({ answered: { queryKey: ["test", 1] }, busy: true });
    waiting[1]?.resolve("whole");
    await rest();
    expect(asking.snapshot()).toMatchObject({ answered: { queryKey: ["test", 2] }, busy: false });
  });

  it("tells which question failed, and keeps the answer of before where it shall", async () => {
    for (const keeps of [true, false]) {
      waiting = [];
      queries.clear();
      const onProblem = vi.fn();
      const asking = new Asking<string>(queries, { keeps, onProblem });
      asking.want(question(1));
      await rest();
      waiting[0]?.resolve("one");
      await rest();
      asking.want(question(2));
      await rest();
      waiting[1]?.reject(new Error("No."));
      await rest();
      expect(asking.snapshot().failed?.queryKey).toEqual(["test", 2]);
      expect(asking.snapshot().answered?.queryKey).toEqual(keeps ? ["test", 1] : undefined);
      expect(onProblem).toHaveBeenCalledTimes(1);
    }
  });

  it("calls off what is under way when it is forgotten, and shows nothing", async () => {
    const asking = new Asking<string>(queries);
    asking.want(question(1));
    await rest();
    asking.forget();
    await rest();
    expect(waiting[0]?.signal.aborted).toBe(true);
    expect(asking.snapshot()).toEqual({ answered: null, failed: null, busy: false });
    waiting[0]?.resolve("late");
    await rest();
    expect(asking.snapshot().answered).toBeNull();
  });
});

describe("the newest answer in a view", () => {
  let root: Root;
  const show = (wish: number | null, after = 0) =>
    act(() =>
      root.render(
        <QueryClientProvider client={queries}>
          <View wish={wish} after={after} />
        </QueryClientProvider>,
      ),
    );

  beforeEach(() => {
    root = createRoot(document.createElement("div"));
    seen = [];
  });
  afterEach(() => act(() => root.unmount()));

  it("stays until the next one is there, and goes where nothing is asked", async () => {
    show(1);
    await rest();
    waiting[0]?.resolve("one");
    await rest();
    show(2);
    await rest();
    expect(seen).toEqual(["one"]);
    waiting[1]?.resolve("two");
    await rest();
    show(null);
    await rest();
    expect(seen).toEqual(["one", "two", undefined]);
  });

  it("is not asked for anew by what says the same", async () => {
    show(1);
    show(1);
    await rest();
    waiting[0]?.resolve("one");
    await rest();
    show(1);
    await rest();
    expect(waiting).toHaveLength(1);
  });

  it("says why there is none", async () => {
    show(1);
    await rest();
    waiting[0]?.reject(new Error("No."));
    await rest();
    expect(error?.message).toBe("No.");
    show(2);
    await rest();
    waiting[1]?.resolve("two");
    await rest();
    expect(error).toBeNull();
  });
});

describe("the number of an object", () => {
  it("is its own, and always the same", () => {
    const [first, second] = [{}, {}];
    expect(serialOf(first)).toBe(serialOf(first));
    expect(serialOf(first)).not.toBe(serialOf(second));
  });
});
