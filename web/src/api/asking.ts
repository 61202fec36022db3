import {
  type QueryClient,
  type QueryFunction,
  type QueryKey,
  skipToken,
  useQuery,
  useQueryClient,
} from "@tanstack/react-query";
import { useEffect, useMemo, useRef, useSyncExternalStore } from "react";
import { Newest } from "./newest";

/** A question to the server: where its answer lies in the cache, and how it is asked. */
export interface Question<Answer> {
  queryKey: QueryKey;
  queryFn?: unknown;
  gcTime?: number;
  structuralSharing?: unknown;
  /** What the question is about, where somebody wants to know that of the answer. */
  about?: unknown;
  /** Never there: it tells the compiler what is answered. */
  answers?: Answer;
}

/** How asking stands: the question whose answer is shown, the one that failed since, and whether one is under way. */
export interface Asked<Answer> {
  answered: Question<Answer> | null;
  failed: Question<Answer> | null;
  busy: boolean;
}

const NOTHING = { answered: null, failed: null, busy: false } as const;

interface Options<Answer> {
  /** Whether the answer of before goes on being shown where a newer question fails. */
  keeps?: boolean;
  onProblem?: (error: unknown, question: Question<Answer>) => void;
}

interface Wish<Answer> {
  question: Question<Answer>;
  /** One whose answer is quicker and nearly as good. */
  quick: Question<Answer> | null;
}

/**
 * Asks one question at a time, of those that come meanwhile only the newest. Answers lie in the query cache alone: here it stands
 * which of them is the one to show.
 */
export class Asking<Answer> {
  private state: Asked<Answer> = NOTHING;
  private readonly listeners = new Set<() => void>();
  private readonly newest: Newest<Wish<Answer>, Question<Answer>>;

  constructor(
    private readonly queries: QueryClient,
    private readonly options: Options<Answer> = {},
  ) {
    this.newest = new Newest<Wish<Answer>, Question<Answer>>({
      ask: (wish, signal) => this.ask(wish.question, signal),
      quick: ({ quick }) => quick && { question: quick, quick: null },
      answer: (answered) => this.put({ answered, failed: null }),
      problem: (error, { question }) => {
        this.put({ failed: question, ...(this.options.keeps ? {} : { answered: null }) });
        this.options.onProblem?.(error, question);
      },
      busy: (busy) => this.put({ busy }),
    });
  }

  want(question: Question<Answer>, quick: Question<Answer> | null = null) {
    this.newest.want({ question, quick });
  }

  /** Forget what is under way and what waits; what is shown stays. */
  stop() {
    this.newest.stop();
  }

  /** Nothing is asked and nothing is shown any more. */
  forget() {
    this.newest.stop();
    if (this.state !== NOTHING) this.put(NOTHING);
  }

  subscribe = (listener: () => void) => {
    this.listeners.add(listener);
    return () => {
      this.listeners.delete(listener);
    };
  };

  snapshot = () => this.state;

  private put(part: Partial<Asked<Answer>>) {
    this.state = { ...this.state, ...part };
    for (const listener of this.listeners) listener();
  }

  private async ask(question: Question<Answer>, signal: AbortSignal): Promise<Question<Answer>> {
    const callOff = () => void this.queries.cancelQueries({ queryKey: question.queryKey, exact: true });
    signal.addEventListener("abort", callOff);
    try {
      await this.queries.fetchQuery({
        ...(question as { queryKey: QueryKey; queryFn: QueryFunction<Answer> }),
        retry: false,
      });
    } finally {
      signal.removeEventListener("abort", callOff);
    }
    return question;
  }
}

const NO_QUESTION = { queryKey: ["nothing"], queryFn: skipToken };

/** What lies in the cache for a question, without asking it; a part of it where that is all that is looked at. */
export function useCached<Answer, Part = Answer>(
  question: Question<Answer> | null,
  select?: (answer: Answer) => Part,
) {
  const options = (question ?? NO_QUESTION) as { queryKey: QueryKey; queryFn: QueryFunction<Answer> };
  return useQuery({ ...options, enabled: false, ...(select ? { select } : {}) } as {
    queryKey: QueryKey;
    queryFn: QueryFunction<Answer>;
    enabled: boolean;
    select: (answer: Answer) => Part;
  });
}

/** The question whose answer is shown. */
export function useAnswered<Answer>(asking: Asking<Answer>) {
  return useSyncExternalStore(asking.subscribe, () => asking.snapshot().answered);
}

export function useFailed<Answer>(asking: Asking<Answer>) {
  return useSyncExternalStore(asking.subscribe, () => asking.snapshot().failed);
}

export function useIsAsking<Answer>(asking: Asking<Answer>) {
  return useSyncExternalStore(asking.subscribe, () => asking.snapshot().busy);
}

interface Live<Answer> {
  /** The answer that is shown, undefined until there is one. */
  answer: Answer | undefined;
  /** The question that it answers. */
  answered: Question<Answer> | null;
  error: Error | null;
}

interface Pace<Answer> {
  quick?: Question<Answer> | null;
  /** Milliseconds that a wish rests before it is asked, so that what is not looked at holds nothing up. */
  after?: number;
}

/**
 * The answer to a question that changes all the time: the newest wins and one is under way. `said` stands for the question, which is
 * asked anew when the text changes; null asks nothing and shows nothing.
 */
export function useNewest<Answer>(
  said: string,
  question: Question<Answer> | null,
  { quick = null, after = 0 }: Pace<Answer> = {},
): Live<Answer> {
  const queries = useQueryClient();
  const asking = useMemo(() => new Asking<Answer>(queries, { keeps: true }), [queries]);
  const latest = useRef({ question, quick });
  latest.current = { question, quick };
  const isAsked = question !== null;
  // biome-ignore lint/correctness/useExhaustiveDependencies: the text stands for the question
  useEffect(() => {
    const ask = () => {
      const { question: wanted, quick: first } = latest.current;
      if (wanted) asking.want(wanted, first);
    };
    if (!isAsked) {
      asking.forget();
      return;
    }
    if (after === 0) {
      ask();
      return;
    }
    const later = setTimeout(ask, after);
    return () => clearTimeout(later);
  }, [said, isAsked, after, asking]);
  useEffect(() => () => asking.stop(), [asking]);
  const answered = useAnswered(asking);
  const failed = useFailed(asking);
  const answer = useCached(answered).data;
  const error = useCached(failed).error;
  return { answer, answered, error };
}

let serial = 0;
const serials = new WeakMap<object, number>();

/** A number of an object's own, to name what was asked about it where the object itself is too large for a key. */
export function serialOf(thing: object): number {
  const known = serials.get(thing);
  if (known !== undefined) return known;
  serial += 1;
  serials.set(thing, serial);
  return serial;
}
