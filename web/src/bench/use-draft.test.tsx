import { QueryClient, QueryClientProvider, skipToken } from "@tanstack/react-query";
import { act } from "react";
import { createRoot, type Root } from "react-dom/client";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { KEYS } from "../api/queries";
import type { Draft, Operation } from "../api/types";
import { type Bench, BenchContext, createBench } from "./context";
import { useDraft, type Wish } from "./use-draft";

(globalThis as { IS_REACT_ACT_ENVIRONMENT?: boolean }).IS_REACT_ACT_ENVIRONMENT = true;

const ID = "11111111-1111-4111-8111-111111111111";
const setDraft = vi.fn((_draft: Draft) => undefined);
const discard = vi.fn(() => undefined);
let root: Root;
let queries: QueryClient;
let shows = 0;
let seen: ReturnType<typeof useDraft>;

function View(wish: Wish) {
  seen = useDraft(wish);
  return null;
}

/** A bench whose palette stands at a revision, with an answered or a failed question. */
function show(wish: Wish | null, revision = 1, { preview = null as unknown, problem = "" } = {}) {
  shows += 1;
  const [answered, failed] = [
    ["answered", shows],
    ["failed", shows],
  ];
  act(() =>
    queries.setQueryData(KEYS.palette(ID), { id: ID, revision, links: [], swatches: [], groups: [] }),
  );
  queries.setQueryData(answered, preview);
  const asked = {
    answered: preview ? { queryKey: answered, queryFn: skipToken } : null,
    failed: problem ? { queryKey: failed, queryFn: skipToken } : null,
    busy: false,
  };
  if (problem) {
    const query = queries.getQueryCache().build(queries, { queryKey: failed });
    query.setState({ status: "error", error: new Error(problem) });
  }
  const bench = {
    ...createBench(queries, ID, null),
    asking: { subscribe: () => () => undefined, snapshot: () => asked },
    commands: { setDraft, discard },
  } as unknown as Bench;
  act(() =>
    root.render(
      <QueryClientProvider client={queries}>
        <BenchContext value={bench}>{wish && <View {...wish} />}</BenchContext>
      </QueryClientProvider>,
    ),
  );
}

function merge(tolerance: number): Wish {
  const operation = { kind: "merge_near_twins", tolerance, keep: "first" } as Operation;
  return { operation, said: String(tolerance) };
}

beforeEach(() => {
  queries = new QueryClient();
  root = createRoot(document.createElement("div"));
});
afterEach(() => {
  act(() => root.unmount());
  setDraft.mockClear();
  discard.mockClear();
});

describe("what a view proposes by itself", () => {
  it("is asked for once, and again only when it says something else", () => {
    show(merge(2));
    show(merge(2));
    expect(setDraft).toHaveBeenCalledTimes(1);
    show(merge(3));
    expect(setDraft).toHaveBeenCalledTimes(2);
    expect(setDraft.mock.lastCall?.[0]).toEqual({ kind: "step", operation: merge(3).operation });
    expect(discard).not.toHaveBeenCalled();
  });

  it("is asked for anew on another state of the palette", () => {
    show(merge(2), 1);
    show(merge(2), 2);
    expect(setDraft).toHaveBeenCalledTimes(2);
  });

  it("is put back where nothing is wanted any more", () => {
    show(merge(2));
    show({ operation: null, said: "" });
    expect(discard).toHaveBeenCalledTimes(1);
    expect(setDraft).toHaveBeenCalledTimes(1);
  });

  it("rests while what was kept is still there, and goes on when something of it is changed", () => {
    show({ ...merge(2), rests: true });
    expect(setDraft).not.toHaveBeenCalled();
    expect(discard).not.toHaveBeenCalled();
    show({ ...merge(4), rests: false });
    expect(setDraft).toHaveBeenCalledTimes(1);
  });

  it("goes with the view, and comes back with it", () => {
    show(merge(2));
    show(null);
    expect(discard).toHaveBeenCalledTimes(1);
    show(merge(2));
    expect(setDraft).toHaveBeenCalledTimes(2);
  });

  it("tells what it would give, and why it cannot be done", () => {
    const proposal = { sentence: "Merge" };
    show(merge(2), 1, {
      preview: { kind: "step", proposal },
      problem: "No.",
    });
    expect(seen).toEqual({ proposal, problem: "No." });
    show(merge(2), 1, { preview: { kind: "reduce", proposal } });
    expect(seen.proposal).toBeNull();
  });
});
