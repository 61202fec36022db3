import { useEffect, useRef } from "react";
import type { Point } from "../../picture/regions";

const LOUPE = { side: 148, pixels: 21 };

/** The pixels around a point, enlarged, with the disc that is averaged. */
export function Loupe({
  original,
  at,
  diameter,
}: {
  original: CanvasImageSource;
  at: Point;
  diameter: number;
}) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const shown = Math.max(LOUPE.pixels, Math.ceil(diameter * 1.5) | 1);
  useEffect(() => {
    const pen = canvas.current?.getContext("2d");
    if (!pen) return;
    const scale = LOUPE.side / shown;
    pen.clearRect(0, 0, LOUPE.side, LOUPE.side);
    pen.imageSmoothingEnabled = false;
    const left = Math.floor(at.x) - (shown - 1) / 2;
    const top = Math.floor(at.y) - (shown - 1) / 2;
    pen.drawImage(original, left, top, shown, shown, 0, 0, LOUPE.side, LOUPE.side);
    const middle = LOUPE.side / 2;
    for (const [color, width] of [
      ["#000", 3],
      ["#fff", 1.5],
    ] as const) {
      pen.beginPath();
      pen.arc(middle, middle, Math.max((diameter / 2) * scale, 3), 0, Math.PI * 2);
      pen.strokeStyle = color;
      pen.lineWidth = width;
      pen.stroke();
    }
  }, [original, at, diameter, shown]);
  return <canvas ref={canvas} width={LOUPE.side} height={LOUPE.side} className="block bg-well" />;
}
