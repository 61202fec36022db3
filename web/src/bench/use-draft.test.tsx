import { act } from "react";
import { createRoot, type Root } from "react-dom/client";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { Draft, Operation } from "../api/client";
import { BenchContext, type BenchState } from "./context";
import { useDraft, type Wish } from "./use-draft";

(globalThis as { IS_REACT_ACT_ENVIRONMENT?: boolean }).IS_REACT_ACT_ENVIRONMENT = true;

const setDraft = vi.fn((_draft: Draft) => undefined);
const discard = vi.fn(() => undefined);
let root: Root;
let seen: ReturnType<typeof useDraft>;

function View(wish: Wish) {
  seen = useDraft(wish);
  return null;
}

function show(wish: Wish | null, revision = 1, more: Partial<BenchState> = {}) {
  const bench = {
    palette: { revision },
    preview: null,
    problem: null,
    setDraft,
    discard,
    ...more,
  } as unknown as BenchState;
  act(() => root.render(<BenchContext value={bench}>{wish && <View {...wish} />}</BenchContext>));
}

function merge(tolerance: number): Wish {
  const operation = { kind: "merge_near_twins", tolerance, keep: "first" } as Operation;
  return { operation, said: String(tolerance) };
}

beforeEach(() => {
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
      preview: { kind: "step", proposal } as unknown as BenchState["preview"],
      problem: "No.",
    });
    expect(seen).toEqual({ proposal, problem: "No." });
    show(merge(2), 1, { preview: { kind: "reduce", proposal } as unknown as BenchState["preview"] });
    expect(seen.proposal).toBeNull();
  });
});
