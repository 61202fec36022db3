import type { Swatch } from "../api/client";

interface StripProps {
  swatches: Swatch[];
  label: string;
  /** In pixels, or all the room there is. */
  height?: number | "fill";
  /** Swatches to mark with a line under them: those that are new, say. */
  marked?: ReadonlySet<string>;
}

const MOST_DRAWN = 1024;

/** A palette as a plain band of its colors, to look at. */
export function Band({ swatches, label, height = 40, marked }: StripProps) {
  if (swatches.length === 0)
    return (
      <div
        className="hatched grid place-items-center border border-dashed border-line"
        style={{ height: height === "fill" ? "100%" : height }}
      >
        <span className="rounded bg-ground px-2 text-[13px] text-quiet">no swatch</span>
      </div>
    );
  return (
    <div
      {...(label ? { role: "img", "aria-label": label } : { "aria-hidden": true })}
      className={`flex ${height === "fill" ? "min-h-0 grow" : ""}`}
    >
      {swatches.slice(0, MOST_DRAWN).map((swatch) => (
        <span
          key={swatch.id}
          title={`${swatch.name} · ${swatch.hex}`}
          className={`flex min-w-0 flex-1 flex-col border-b-4 ${swatch.alpha === 0 ? "checkered" : ""} ${
            marked?.has(swatch.id) ? "border-ink" : "border-transparent"
          }`}
        >
          <span
            className={`block ${height === "fill" ? "grow" : ""}`}
            style={{
              height: height === "fill" ? undefined : height,
              background: swatch.alpha === 0 ? undefined : swatch.hex,
            }}
          />
        </span>
      ))}
    </div>
  );
}
