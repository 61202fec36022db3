import { useQuery } from "@tanstack/react-query";
import { useEffect, useMemo, useRef, useState } from "react";
import { useNewest } from "./asking";
import { ask } from "./queries";
import type { Description } from "./types";

/** A color as coordinates of a space. */
export interface ColorIn {
  space: string;
  coords: readonly number[];
  alpha: number;
  /** OKLCh lightness that the color keeps, whatever its coordinates say. */
  hold?: number | null;
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
  return useQuery({ ...ask.description(color), placeholderData: (before) => before });
}

/** The same while a control is being dragged: one request at a time, and only the newest color waits. */
export function useLiveDescription(
  live: ColorIn | null,
): { asked: ColorIn; description: Description } | null {
  const said = live ? [live.space, live.coords.join(), live.alpha, live.hold ?? ""].join(" ") : "";
  const { answer, answered } = useNewest<Description>(
    said,
    live && { ...ask.description(live), about: live },
  );
  const asked = answered?.about as ColorIn | undefined;
  // The same object as long as it says the same: what follows a drag is told once of each answer.
  const found = useMemo(() => (answer && asked ? { asked, description: answer } : null), [answer, asked]);
  return live ? found : null;
}

/** Difference and contrast of two colors. */
export function useCompare(first: string, second: string) {
  return useQuery({ ...ask.compared(first, second), placeholderData: (before) => before });
}
