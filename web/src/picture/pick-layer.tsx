import { type KeyboardEvent, type PointerEvent, useRef, useState } from "react";
import type { Point } from "./regions";
import type { View } from "./view";

const DRAG_PX = 6;

/** Over a picture: pick a color where it is clicked, or several along a line that is dragged; by keys as well. */
export function PickLayer({
  view,
  size,
  diameter,
  along = 0,
  at,
  onAt,
  onPick,
  onLine,
}: {
  view: View;
  size: { width: number; height: number };
  diameter: number;
  along?: number;
  at: Point | null;
  onAt: (at: Point) => void;
  onPick: (at: Point) => void;
  /** Where a line may be dragged. */
  onLine?: (from: Point, to: Point) => void;
}) {
  const [line, setLine] = useState<{ from: Point; to: Point } | null>(null);
  const held = useRef<{ x: number; y: number; from: Point } | null>(null);
  const bound = (point: Point): Point => ({
    x: Math.min(size.width - 0.01, Math.max(0, point.x)),
    y: Math.min(size.height - 0.01, Math.max(0, point.y)),
  });
  const place = (event: PointerEvent<HTMLDivElement>) => {
    const rect = event.currentTarget.getBoundingClientRect();
    return bound({
      x: (event.clientX - rect.left - view.x) / view.zoom,
      y: (event.clientY - rect.top - view.y) / view.zoom,
    });
  };
  const press = (event: KeyboardEvent) => {
    const step = event.shiftKey ? 10 : 1;
    const moves: Record<string, Point> = {
      ArrowLeft: { x: -step, y: 0 },
      ArrowRight: { x: step, y: 0 },
      ArrowUp: { x: 0, y: -step },
      ArrowDown: { x: 0, y: step },
    };
    const now = at ?? { x: size.width / 2, y: size.height / 2 };
    const move = moves[event.key];
    if (move) onAt(bound({ x: now.x + move.x, y: now.y + move.y }));
    else if (event.key === "Enter" || event.key === " ") onPick(now);
    else return;
    event.preventDefault();
    event.stopPropagation();
  };
  const ring = (point: Point, key: string) => (
    <g key={key}>
      <circle
        cx={point.x}
        cy={point.y}
        r={diameter / 2}
        fill="none"
        stroke="#000"
        strokeWidth={3}
        vectorEffect="non-scaling-stroke"
      />
      <circle
        cx={point.x}
        cy={point.y}
        r={diameter / 2}
        fill="none"
        stroke="#fff"
        strokeWidth={1.2}
        vectorEffect="non-scaling-stroke"
      />
    </g>
  );
  const stops = line
    ? Array.from({ length: along }, (_, step) => ({
        x: line.from.x + ((line.to.x - line.from.x) * step) / (along - 1),
        y: line.from.y + ((line.to.y - line.from.y) * step) / (along - 1),
      }))
    : [];
  return (
    <div
      role="application"
      // biome-ignore lint/a11y/noNoninteractiveTabindex: an application is worked with keys, and needs the focus for that
      tabIndex={0}
      aria-label="Pick a color here: arrow keys move the disc, Enter takes it"
      className="absolute inset-0 size-full cursor-crosshair -outline-offset-2"
      onKeyDown={press}
      onPointerDown={(event) => {
        if (event.button !== 0) return;
        event.stopPropagation();
        event.currentTarget.setPointerCapture(event.pointerId);
        held.current = { x: event.clientX, y: event.clientY, from: place(event) };
      }}
      onPointerMove={(event) => {
        const now = place(event);
        onAt(now);
        const start = held.current;
        if (start && onLine && Math.hypot(event.clientX - start.x, event.clientY - start.y) > DRAG_PX)
          setLine({ from: start.from, to: now });
      }}
      onPointerUp={(event) => {
        const start = held.current;
        held.current = null;
        if (!start) return;
        if (line) onLine?.(line.from, line.to);
        else onPick(place(event));
        setLine(null);
      }}
    >
      <svg aria-hidden="true" className="pointer-events-none size-full">
        <g transform={`translate(${view.x} ${view.y}) scale(${view.zoom})`}>
          {line && (
            <line
              x1={line.from.x}
              y1={line.from.y}
              x2={line.to.x}
              y2={line.to.y}
              stroke="#fff"
              strokeWidth={1.5}
              strokeDasharray="4 3"
              vectorEffect="non-scaling-stroke"
            />
          )}
          {stops.map((stop, step) => ring(stop, `stop-${step}`))}
          {at && !line && ring(at, "at")}
        </g>
      </svg>
    </div>
  );
}
