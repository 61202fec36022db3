import type { Swatch } from "../api/types";
import { useLens } from "./lens";

interface StripProps {
  swatches: Pick<Swatch, "id" | "hex" | "alpha" | "name">[];
  label: string;
  /** In pixels, or all the room there is. */
  height?: number | "fill";
  /** Swatches to mark with a line under them: those that are new, say. */
  marked?: ReadonlySet<string>;
}

const MOST_CELLS = 256;
const MOST_STRIPES = 1024;

/** Sharp stripes of equal width as one background; of more than fit, every so many. */
export function stripes<Each>(swatches: readonly Each[], colorOf: (swatch: Each) => string): string {
  const count = Math.min(swatches.length, MOST_STRIPES);
  const parts: string[] = [];
  for (let place = 0; place < count; place++) {
    const swatch = swatches[Math.floor((place * swatches.length) / count)] as Each;
    const ends = [place, place + 1].map((edge) => `${((edge / count) * 100).toFixed(3)}%`).join(" ");
    parts.push(`${colorOf(swatch)} ${ends}`);
  }
  return `linear-gradient(to right, ${parts.join(", ")})`;
}

/** The colors of a palette's card, rrggbbaa one after the other, as one background: shelves hold thousands. Clear ones are checkered. */
export function HexBand({ strip }: { strip: string }) {
  const lens = useLens();
  const hexes = strip.match(/.{8}/g) ?? [];
  const hasClear = hexes.some((hex) => hex.endsWith("00"));
  return (
    <span className={`flex grow ${hasClear ? "checkered" : ""}`}>
      <span
        className="grow"
        style={{
          background: stripes(hexes, (hex) => (hex.endsWith("00") ? "transparent" : lens.css(`#${hex}`))),
        }}
      />
    </span>
  );
}

/** A palette as a plain band of its colors, to look at. */
export function Band({ swatches, label, height = 40, marked }: StripProps) {
  const lens = useLens();
  if (swatches.length === 0)
    return (
      <div
        className="hatched grid place-items-center border border-dashed border-line"
        style={{ height: height === "fill" ? "100%" : height }}
      >
        <span className="rounded bg-ground px-2 text-small text-quiet">no swatch</span>
      </div>
    );
  if (swatches.length > MOST_CELLS)
    return (
      <div
        {...(label ? { role: "img", "aria-label": label } : { "aria-hidden": true })}
        className={`flex flex-col ${height === "fill" ? "min-h-0 grow" : ""}`}
      >
        <span
          className={height === "fill" ? "grow" : "block"}
          style={{
            height: height === "fill" ? undefined : height,
            background: stripes(swatches, (swatch) =>
              swatch.alpha === 0 ? "transparent" : lens.css(swatch.hex),
            ),
          }}
        />
        <span
          className="block h-1"
          style={{
            background: stripes(swatches, (swatch) =>
              marked?.has(swatch.id) ? "var(--ink)" : "transparent",
            ),
          }}
        />
      </div>
    );
  return (
    <div
      {...(label ? { role: "img", "aria-label": label } : { "aria-hidden": true })}
      className={`flex ${height === "fill" ? "min-h-0 grow" : ""}`}
    >
      {swatches.map((swatch) => (
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
              background: swatch.alpha === 0 ? undefined : lens.css(swatch.hex),
            }}
          />
        </span>
      ))}
    </div>
  );
}
