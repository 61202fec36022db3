import { useQuery } from "@tanstack/react-query";
import { ask } from "../api/queries";
import type { Usage as Used } from "../api/types";

/** From which share of a limit on it is said aloud. */
export const NEAR = 0.8;
const NOUNS = { bytes: "MB", pictures: "pictures", palettes: "palettes", jobs: "jobs at work" } as const;
type Kind = keyof typeof NOUNS;
const KINDS: Kind[] = ["bytes", "pictures", "palettes"];

const whole = (count: number, kind: Kind) =>
  Math.round(kind === "bytes" ? count / 1048576 : count).toLocaleString("en");

/** “12 of 4,096 MB” and so on. */
export function amounts(used: Used) {
  return KINDS.map((kind) => {
    const { used: kept, most } = used[kind];
    return {
      kind,
      share: most > 0 ? Math.min(kept / most, 1) : 1,
      text: `${whole(kept, kind)} of ${whole(most, kind)} ${NOUNS[kind]}`,
    };
  });
}

/** What the shelf holds of what it may: a quiet line at its end, and a plain word once little is left. */
export function Usage() {
  const { data } = useQuery(ask.usage());
  if (!data) return null;
  const rows = amounts(data);
  const full = rows.filter((row) => row.share >= NEAR);
  return (
    <section
      aria-label="How full the shelf is"
      className="mt-10 border-t border-line pt-3 text-small text-quiet"
    >
      {full.length > 0 && (
        <p role="status" className="mb-2 font-semibold text-ink">
          {full.some((row) => row.share >= 1) ? "The shelf is full" : "The shelf is nearly full"}:{" "}
          {full.map((row) => row.text).join(", ")}. Put what you do not need into the trash, then empty it.
        </p>
      )}
      <div className="flex flex-wrap gap-x-8 gap-y-1">
        {rows.map((row) => (
          <p key={row.kind} className="m-0 flex items-center gap-2">
            <span className="block h-1 w-16 overflow-hidden rounded-full bg-line">
              <span
                className={`block h-full ${row.share >= NEAR ? "bg-ink" : "bg-quiet"}`}
                style={{ width: `${row.share > 0 ? Math.max(row.share * 100, 3) : 0}%` }}
              />
            </span>
            {row.text}
          </p>
        ))}
      </div>
    </section>
  );
}
