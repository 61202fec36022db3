import { useEffect, useMemo, useRef } from "react";
import { create } from "zustand";
import { type Checks, type ChecksRequest, client, unwrap } from "../api/client";
import { Newest } from "../api/newest";
import { inWords } from "../api/words";
import { useScreen } from "../shell/store";
import { useBench } from "./context";

export type Value = number | string;
export type Limits = Record<string, Record<string, Value>>;
type Body = ChecksRequest;

interface ChecksState {
  /** The check that is looked at, and how its picture is shown. */
  open: string;
  views: Record<string, Record<string, Value>>;
  /** Limits that are tried out and not kept; null for those of the palette. */
  limits: Limits | null;
  worstFirst: boolean;
  answer: Checks | null;
  /** The palette that the answer is about. */
  of: string;
  problem: string | null;
  set: (part: Partial<Omit<ChecksState, "set" | "setView">>) => void;
  setView: (check: string, view: string, value: Value) => void;
}

export const useChecks = create<ChecksState>((set) => ({
  open: "balance",
  views: {},
  limits: null,
  worstFirst: false,
  answer: null,
  of: "",
  problem: null,
  set: (part) => set(part),
  setView: (check, view, value) =>
    set((state) => ({ views: { ...state.views, [check]: { ...state.views[check], [view]: value } } })),
}));

const UNSEEN_DELAY = 100;
const MANY = 256;

function examine(palette: string, body: Body, signal: AbortSignal) {
  return unwrap(
    client.POST("/api/palettes/{palette_id}/checks", {
      params: { path: { palette_id: palette } },
      body,
      signal,
    }),
  );
}

/** Asks for the verdicts whenever what is shown changes: at once where they are looked at, later where only their count is. */
export function useChecking() {
  const { palette, draft } = useBench();
  const dragging = useScreen((screen) => screen.dragging);
  const looked = useScreen((screen) => screen.stage) === "check";
  const { open, views, limits, set } = useChecks();
  const newest = useMemo(
    () =>
      new Newest<Body, Checks>({
        ask: (body, signal) => examine(palette.id, body, signal),
        answer: (answer) => set({ answer, of: palette.id, problem: null }),
        problem: (error) => set({ problem: inWords(error), of: palette.id }),
      }),
    [palette.id, set],
  );
  const body: Body = {
    open: looked ? open : null,
    views: looked ? (views[open] ?? {}) : {},
    limits,
    colors: dragging ? { [dragging.id]: dragging.css } : {},
    operation: draft?.kind === "step" ? draft.operation : null,
    only: null,
  };
  // A reduction that is tried out has no verdict before it is kept.
  const said = `${palette.revision} ${JSON.stringify(body)}`;
  const latest = useRef(body);
  latest.current = body;
  const delay = looked ? 0 : palette.swatches.length > MANY ? 16 * UNSEEN_DELAY : UNSEEN_DELAY;
  // biome-ignore lint/correctness/useExhaustiveDependencies: the text stands for all that is asked
  useEffect(() => {
    if (delay === 0) {
      newest.want(latest.current);
      return;
    }
    const later = setTimeout(() => newest.want(latest.current), delay);
    return () => clearTimeout(later);
  }, [said, delay, newest]);
  useEffect(() => () => newest.stop(), [newest]);
  // Limits that were tried out belong to the palette they were tried on.
  // biome-ignore lint/correctness/useExhaustiveDependencies: when another palette comes to the bench
  useEffect(() => set({ limits: null }), [palette.id, set]);
}

/** The reports about the palette on the bench, and how many have something to look at. */
export function useReports() {
  const { palette } = useBench();
  const { answer, of } = useChecks();
  const reports = of === palette.id ? (answer?.reports ?? []) : [];
  return {
    reports,
    count: reports.filter(({ verdict }) => verdict === "fails" || verdict === "look").length,
  };
}
