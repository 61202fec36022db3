import { Check, CircleAlert, Minus, X } from "lucide-react";
import type { CheckReport } from "../../api/types";

const MARKS = { fails: X, look: CircleAlert, holds: Check, nothing: Minus } as const;
export const SAID = {
  fails: "fails",
  look: "look again",
  holds: "holds",
  nothing: "nothing to say",
} as const;
export type Verdict = keyof typeof SAID;

/** From the worst to the least. */
export const VERDICTS: readonly Verdict[] = ["fails", "look", "holds", "nothing"];

export function verdictOf(report: CheckReport | undefined): Verdict {
  return (report?.verdict as Verdict | undefined) ?? "nothing";
}

/** A verdict as an icon with its word for those who cannot see it. */
export function VerdictMark({ verdict, size = 15 }: { verdict: Verdict; size?: number }) {
  const Mark = MARKS[verdict];
  return (
    <Mark
      size={size}
      strokeWidth={verdict === "fails" ? 3 : 2}
      aria-label={SAID[verdict]}
      className="shrink-0"
    />
  );
}
