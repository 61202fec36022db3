import type { Box } from "./use-cells";

/** The rectangle that is being drawn around cells, and the gap that a drag would drop at. */
export function PointerMarks({ marquee, gap }: { marquee: Box | null; gap: Box | null }) {
  return (
    <>
      {marquee && (
        <div
          aria-hidden="true"
          className="pointer-events-none fixed z-30 border border-dashed border-ink shadow-[0_0_0_1px_var(--ground)]"
          style={marquee}
        />
      )}
      {gap && (
        <div
          aria-hidden="true"
          className="pointer-events-none fixed z-30 w-[3px] bg-ink shadow-[0_0_0_1px_var(--ground)]"
          style={{ left: gap.left - 1, top: gap.top - 3, height: gap.height + 6 }}
        />
      )}
    </>
  );
}
