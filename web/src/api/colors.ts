import { useQuery } from "@tanstack/react-query";
import { useEffect, useMemo, useRef, useState } from "react";
import { client, type Description, unwrap } from "./client";
import { Newest } from "./newest";
import { ask } from "./queries";

/** A color as coordinates of a space. */
export interface ColorIn {
  space: string;
  coords: readonly number[];
  alpha: number;
  /** OKLCh lightness that the color keeps, whatever its coordinates say. */
  hold?: number | null;
}

/** A color in every space, once. */
export function describe(color: ColorIn, signal?: AbortSignal): Promise<Description> {
  return unwrap(
    client.POST("/api/colors/describe", {
      body: { space: color.space, coords: [...color.coords], alpha: color.alpha, hold: color.hold ?? null },
      signal: signal ?? null,
    }),
  ) as Promise<Description>;
}

const SETTLE_MS = 150;

/**
 * A value once it rests, while `moves` says that it is about to change again: what is only looked at need not be asked
 * for at every step of a preview, which it would hold up.
 */
export function useRested<Value>(value: Value, key: string, moves: boolean): Value {
  const [rested, setRested] = useState({ value, key });
  const latest = useRef(value);
  latest.current = value;
  useEffect(() => {
    if (key === rested.key) return;
    const timer = setTimeout(() => setRested({ value: latest.current, key }), moves ? SETTLE_MS : 0);
    return () => clearTimeout(timer);
  }, [key, moves, rested.key]);
  return moves && key !== rested.key ? rested.value : value;
}

/** A color in every space of the editor and every notation, as the server works it out. */
export function useDescription(color: ColorIn) {
  return useQuery({
    queryKey: ["describe", color.space, color.coords.join(), color.alpha],
    queryFn: () => describe(color),
    staleTime: Infinity,
    gcTime: 30_000,
    placeholderData: (before) => before,
  });
}

/** The same while a control is being dragged: one request at a time, and only the newest color waits. */
export function useLiveDescription(live: ColorIn | null) {
  const [found, setFound] = useState<{ asked: ColorIn; description: Description } | null>(null);
  const newest = useMemo(
    () =>
      new Newest<ColorIn, { asked: ColorIn; description: Description }>({
        ask: async (asked, signal) => ({ asked, description: await describe(asked, signal) }),
        answer: setFound,
        problem: () => undefined,
        busy: () => undefined,
      }),
    [],
  );
  useEffect(() => {
    if (live) newest.want(live);
    else {
      newest.stop();
      setFound(null);
    }
  }, [live, newest]);
  return live ? found : null;
}

/** Difference and contrast of two colors. */
export function useCompare(first: string, second: string) {
  return useQuery({ ...ask.compared(first, second), placeholderData: (before) => before });
}
