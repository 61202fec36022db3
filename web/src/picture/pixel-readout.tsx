import { useEffect, useState } from "react";
import { useCompare } from "../api/colors";
import type { Swatch } from "../api/types";

const SETTLE_MS = 60;
let probe: OffscreenCanvasRenderingContext2D | null = null;

function colorAt(image: HTMLImageElement, x: number, y: number): string | null {
  probe ??= new OffscreenCanvas(1, 1).getContext("2d", { willReadFrequently: true });
  if (!probe) return null;
  probe.clearRect(0, 0, 1, 1);
  probe.drawImage(image, x, y, 1, 1, 0, 0, 1, 1);
  const [red = 0, green = 0, blue = 0, alpha = 0] = probe.getImageData(0, 0, 1, 1).data;
  if (alpha < 128) return null;
  return `#${[red, green, blue].map((channel) => channel.toString(16).padStart(2, "0")).join("")}`;
}

interface Props {
  pixel: { x: number; y: number } | null;
  original: HTMLImageElement | null;
  /** The swatch that paints a pixel, and its index in the strip. */
  swatchAt: (x: number, y: number) => { swatch: Swatch; index: number } | null;
}

/** The pixel under the pointer: original, result, index and their difference. */
export function PixelReadout({ pixel, original, swatchAt }: Props) {
  const [settled, setSettled] = useState(pixel);
  useEffect(() => {
    const timer = setTimeout(() => setSettled(pixel), SETTLE_MS);
    return () => clearTimeout(timer);
  }, [pixel]);
  const own = settled && original ? colorAt(original, settled.x, settled.y) : null;
  const shown = settled ? swatchAt(settled.x, settled.y) : null;
  const hex = shown && shown.swatch.alpha > 0 ? shown.swatch.hex.slice(0, 7) : null;
  const compare = useCompare(own ?? "#000000", hex ?? "#000000");
  if (!settled) return null;
  return (
    <div
      aria-hidden="true"
      className="pointer-events-none absolute bottom-3 left-3 z-10 flex items-center gap-2 rounded-md border border-line bg-panel px-2 py-1 text-caption"
    >
      <span className="text-quiet">
        {settled.x}, {settled.y}
      </span>
      <span className="size-3.5 border border-line" style={{ background: own ?? "transparent" }} />
      {own ?? "clear"}
      {shown && (
        <>
          <span className="text-quiet">→ {shown.index}</span>
          <span className="size-3.5 border border-line" style={{ background: hex ?? "transparent" }} />
          {hex ?? "clear"}
          {own && hex && compare.data && (
            <strong className="font-semibold">ΔE {compare.data.delta_eok.toFixed(1)}</strong>
          )}
        </>
      )}
    </div>
  );
}
