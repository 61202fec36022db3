import { useLayoutEffect, useMemo, useRef } from "react";
import { useLens } from "../../lens/lens";

/** Four bytes a sample, as the server sends them. */
export function bytesOf(base64: string): Uint8ClampedArray<ArrayBuffer> {
  const text = atob(base64);
  const bytes = new Uint8ClampedArray(text.length);
  for (let place = 0; place < text.length; place++) bytes[place] = text.charCodeAt(place);
  return bytes;
}

/** Samples from left to right, stretched over the width there is; what is clear shows a checkered ground. */
export function Samples({ rgba, className = "size-full" }: { rgba: string; className?: string }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const lens = useLens();
  const own = useMemo(() => bytesOf(rgba), [rgba]);
  const samples = useMemo(() => lens.pixels(own), [own, lens]);
  const count = Math.max(samples.length / 4, 1);
  useLayoutEffect(() => {
    if (samples.length === 0) return;
    canvas.current?.getContext("2d")?.putImageData(new ImageData(samples, samples.length / 4, 1), 0, 0);
  }, [samples]);
  return (
    <span className={`checkered block ${className}`}>
      <canvas
        ref={canvas}
        width={count}
        height={1}
        className="block size-full"
        style={{ imageRendering: count <= 256 ? "pixelated" : "auto" }}
      />
    </span>
  );
}

interface CurveProps {
  values: readonly number[];
  /** What the top stands for. */
  top: number;
  /** Draw the straight line between the ends as well. */
  chord?: boolean;
  quiet?: boolean;
}

const CURVE = { width: 160, height: 40 };

/** One figure from end to end, as a line in a box of its own. */
export function CurveLine({ values, top, chord, quiet }: CurveProps) {
  const last = values.length - 1;
  const point = (value: number, place: number) =>
    `${((place / last) * CURVE.width).toFixed(1)},${((1 - Math.min(value / top, 1)) * CURVE.height).toFixed(1)}`;
  return (
    <>
      {chord && (
        <polyline
          points={`${point(values[0] ?? 0, 0)} ${point(values[last] ?? 0, last)}`}
          fill="none"
          stroke="var(--line)"
          strokeWidth={1}
          vectorEffect="non-scaling-stroke"
        />
      )}
      <polyline
        points={values.map(point).join(" ")}
        fill="none"
        stroke={quiet ? "var(--quiet)" : "var(--ink)"}
        strokeWidth={quiet ? 1.25 : 2}
        strokeDasharray={quiet ? "4 3" : undefined}
        vectorEffect="non-scaling-stroke"
      />
    </>
  );
}

export function CurveBox({ children, className }: { children: React.ReactNode; className: string }) {
  return (
    <svg
      viewBox={`0 0 ${CURVE.width} ${CURVE.height}`}
      className={`block overflow-visible ${className}`}
      preserveAspectRatio="none"
      aria-hidden="true"
    >
      {children}
    </svg>
  );
}

/** Where a ramp leaves sRGB: hatched along its foot. */
export function OutsideMarks({ spans }: { spans: readonly (readonly number[])[] }) {
  return spans.map(([begin = 0, end = 0]) => (
    <span
      key={`${begin}-${end}`}
      title="Outside sRGB: shown as the gamut rule says"
      className="hatched pointer-events-none absolute bottom-0 h-1.5 bg-ground/80"
      style={{ left: `${begin * 100}%`, width: `${Math.max((end - begin) * 100, 0.4)}%` }}
    />
  ));
}
