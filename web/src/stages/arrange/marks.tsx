import type { Box } from "./use-cells";

/** The rectangle that is being drawn around cells. */
export function Marquee({ box }: { box: Box | null }) {
  return (
    box && (
      <div
        aria-hidden="true"
        className="pointer-events-none fixed z-30 border border-dashed border-ink shadow-[0_0_0_1px_var(--ground)]"
        style={box}
      />
    )
  );
}
