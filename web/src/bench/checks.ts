import { useEffect, useRef } from "react";
import { create } from "zustand";
import { useAnswered, useCached, useFailed } from "../api/asking";
import { ask } from "../api/queries";
import type { Checks, ChecksRequest } from "../api/types";
import { inWords } from "../api/words";
import { useScreen } from "../shell/store";
import { useBench, useDrafted, usePalette } from "./context";

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
  set: (part: Partial<Omit<ChecksState, "set" | "setView">>) => void;
  setView: (check: string, view: string, value: Value) => void;
}

export const useChecks = create<ChecksState>((set) => ({
  open: "balance",
  views: {},
  limits: null,
  worstFirst: false,
  set: (part) => set(part),
  setView: (check, view, value) =>
    set((state) => ({ views: { ...state.views, [check]: { ...state.views[check], [view]: value } } })),
}));

const UNSEEN_DELAY = 100;
const MANY = 256;

/** Asks for the verdicts whenever what is shown changes: at once where they are looked at, later where only their count is. */
export function useChecking() {
  const { id, checking } = useBench();
  const revision = usePalette((palette) => palette.revision);
  const count = usePalette((palette) => palette.swatches.length);
  const draft = useDrafted();
  const dragging = useScreen((screen) => screen.dragging);
  const looked = useScreen((screen) => screen.stage) === "check";
  const { open, views, limits, set } = useChecks();
  const body: Body = {
    open: looked ? open : null,
    views: looked ? (views[open] ?? {}) : {},
    limits,
    colors: dragging ? { [dragging.id]: dragging.css } : {},
    operation: draft?.kind === "step" ? draft.operation : null,
    only: null,
  };
  // A reduction that is tried out has no verdict before it is kept.
  const said = `${revision} ${JSON.stringify(body)}`;
  const latest = useRef({ body, revision });
  latest.current = { body, revision };
  const delay = looked ? 0 : count > MANY ? 16 * UNSEEN_DELAY : UNSEEN_DELAY;
  // biome-ignore lint/correctness/useExhaustiveDependencies: the text stands for all that is asked
  useEffect(() => {
    const wanted = () =>
      checking.want(ask.checks({ id, revision: latest.current.revision }, latest.current.body));
    if (delay === 0) {
      wanted();
      return;
    }
    const later = setTimeout(wanted, delay);
    return () => clearTimeout(later);
  }, [said, delay, checking]);
  useEffect(() => () => checking.stop(), [checking]);
  // Limits that were tried out belong to the palette they were tried on.
  // biome-ignore lint/correctness/useExhaustiveDependencies: when another palette comes to the bench
  useEffect(() => set({ limits: null }), [id, set]);
}

/** The newest answer of the checks, and why there is none to what was asked since. */
export function useChecksAnswer(): { answer: Checks | null; problem: string | null } {
  const { checking } = useBench();
  const { data } = useCached(useAnswered(checking));
  const { error } = useCached(useFailed(checking));
  return { answer: data ?? null, problem: error ? inWords(error) : null };
}

const itsReports = (answer: Checks) => answer.reports;
const NO_REPORTS: Checks["reports"] = [];

/** The reports about the palette on the bench, and how many have something to look at. */
export function useReports() {
  const reports = useCached(useAnswered(useBench().checking), itsReports).data ?? NO_REPORTS;
  return {
    reports,
    count: reports.filter(({ verdict }) => verdict === "fails" || verdict === "look").length,
  };
}
