import { useQuery } from "@tanstack/react-query";
import { useEffect, useMemo, useRef } from "react";
import { create } from "zustand";
import { useAnswered, useCached, useFailed, useIsAsking } from "../api/asking";
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

/** A check whose verdict is another one since something is tried out. */
export interface Moved {
  id: string;
  before: Report["verdict"];
  after: Report["verdict"];
}

type Report = Checks["reports"][number];

/** What a trial changes: every check with another verdict than the palette as it is kept has. Null while that is not known. */
export function movedVerdicts(kept: readonly Report[], tried: readonly Report[]): Moved[] {
  const before = new Map(kept.map((report) => [report.id, report.verdict]));
  return tried.flatMap(({ id, verdict }) => {
    const was = before.get(id);
    return was === undefined || was === verdict ? [] : [{ id, before: was, after: verdict }];
  });
}

/** The verdicts that move by the step that is tried out; null while either side is not answered, or nothing is tried. */
export function useMoved(): Moved[] | null {
  const { id, checking } = useBench();
  const revision = usePalette((palette) => palette.revision);
  const draft = useDrafted();
  const limits = useChecks((state) => state.limits);
  const trying = draft?.kind === "step";
  // The same body is the same question, however often this is drawn.
  const body: Body = useMemo(
    () => ({ open: null, views: {}, limits, colors: {}, operation: null, only: null }),
    [limits],
  );
  const kept = useQuery({ ...ask.checks({ id, revision }, body), enabled: trying });
  const asking = useIsAsking(checking);
  const { reports } = useReports();
  if (!trying || !kept.data || asking) return null;
  return movedVerdicts(kept.data.reports, reports);
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
