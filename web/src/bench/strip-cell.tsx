import { memo } from "react";
import type { Swatch } from "../api/types";
import { useLens } from "../lens/lens";
import { textOn } from "../ui/css-color";
import { useMovable } from "./moving";

/** A place of the strip: a swatch, or none in a palette of numbered places. */
export type Place = { index: number; swatch: Swatch | null };

/** Every place in order: the swatches, and where places are numbered the empty ones between and behind them. */
export function placesOf(swatches: Swatch[], slots: number | null): Place[] {
  if (slots === null) return swatches.map((swatch, index) => ({ index, swatch }));
  const bySlot = new Map(swatches.map((swatch) => [swatch.slot, swatch]));
  return Array.from({ length: slots }, (_, index) => ({ index, swatch: bySlot.get(index) ?? null }));
}

export interface CellProps {
  swatch: Swatch;
  index: number;
  selected: boolean;
  current: boolean;
  css: string | null;
  height: number;
  label: "index" | "tick" | "none";
  /** Something on the screen is about it. */
  marked: boolean;
}

/** One swatch; drawn again only when something of it changes. */
export const Cell = memo(function Cell({
  swatch,
  index,
  selected,
  current,
  css,
  height,
  label,
  marked,
}: CellProps) {
  const lens = useLens();
  const { ref, listeners, isDragging } = useMovable(swatch.id, index);
  const color = lens.css(css ?? swatch.hex);
  const clear = swatch.alpha === 0;
  const share =
    swatch.coverage === null
      ? ""
      : swatch.coverage === 0
        ? ", paints nothing"
        : `, ${(swatch.coverage * 100).toFixed(1)} % of the picture`;
  return (
    <div
      ref={ref}
      {...listeners}
      role="option"
      id={`swatch-${swatch.id}`}
      data-swatch={swatch.id}
      data-index={index}
      aria-selected={selected}
      aria-label={`${index} ${swatch.name}, ${swatch.hex}${swatch.locked ? ", locked" : ""}${share}`}
      title={`${index} · ${swatch.name} · ${swatch.hex}${share}`}
      tabIndex={current ? 0 : -1}
      className={`group relative min-w-0 flex-1 cursor-default touch-none outline-none select-none ${isDragging ? "opacity-60" : ""}`}
    >
      <div
        className={`relative ${clear ? "checkered" : ""} ${
          selected
            ? "z-10 -mx-px shadow-[0_0_0_2px_var(--ground),0_0_0_4px_var(--ink)]"
            : "group-focus-visible:shadow-[inset_0_0_0_2px_var(--ink)]"
        }`}
        style={{
          height: selected && label !== "none" ? height + 8 : height,
          background: clear ? undefined : color,
        }}
      >
        {marked && (
          <span
            data-marked=""
            className="absolute inset-x-0 -top-[5px] mx-auto h-[3px] w-full max-w-8 bg-ink"
          />
        )}
        {swatch.coverage === 0 && (
          <span
            className="absolute inset-x-0 bottom-0 h-2"
            style={{
              background: "repeating-linear-gradient(45deg, #000 0 2px, #fff 2px 4px)",
              opacity: 0.75,
            }}
          />
        )}
        {swatch.pinned && (
          <span
            title="Pinned to its place"
            className="absolute bottom-1 left-1/2 h-[3px] w-3 -translate-x-1/2"
            style={{ background: textOn(color) }}
          />
        )}
        {swatch.locked && (
          <span
            className="absolute top-1 left-1/2 size-[7px] -translate-x-1/2 rounded-full"
            style={{
              background: "var(--ground)",
              boxShadow: `0 0 0 1px ${textOn(color)}6`,
            }}
          />
        )}
      </div>
      {label !== "none" && (
        <div
          className={`mt-1 h-4 overflow-visible text-center text-mini leading-4 whitespace-nowrap ${
            selected ? "-mt-[3px] font-bold text-ink" : "text-quiet"
          } ${label === "tick" && !selected ? "invisible" : ""}`}
        >
          {index}
        </div>
      )}
    </div>
  );
});

/** A numbered place that nothing stands at. */
export function EmptyCell({
  index,
  height,
  label,
}: {
  index: number;
  height: number;
  label: CellProps["label"];
}) {
  const { ref } = useMovable(`empty-${index}`, index, true);
  return (
    <div ref={ref} className="min-w-0 flex-1" data-empty={index} title={`${index} · empty`}>
      <div className="hatched" style={{ height }} />
      {label !== "none" && (
        <div
          className={`mt-1 h-4 text-center text-mini leading-4 text-quiet ${label === "tick" ? "invisible" : ""}`}
        >
          {index}
        </div>
      )}
    </div>
  );
}
