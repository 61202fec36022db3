import { type PointerEvent, useLayoutEffect, useMemo, useRef } from "react";
import type { Drawing, DrawnShape } from "../../api/types";
import { useLens } from "../../lens/lens";

function marked(shape: DrawnShape, hovered: ReadonlySet<string>) {
  return hovered.size > 0 && shape.ids.some((id) => hovered.has(id));
}

/** Indices painted through a table of codes, as a canvas holds them: red in the lowest byte, none of them clear. */
export function paintedWords(indices: Uint8Array, codes: string[]): Uint32Array {
  const table = codes.map((code) => {
    const word = Number.parseInt(code.slice(1, 7), 16);
    return (0xff000000 | ((word & 255) << 16) | (word & 0xff00) | (word >> 16)) >>> 0;
  });
  return Uint32Array.from(indices, (index) => table[index] ?? 0);
}

/** An image of indices, painted through its table. */
function Pixels({ shape, css }: { shape: DrawnShape; css: (color: string) => string }) {
  const [x = 0, y = 0, width = 0, height = 0] = shape.at;
  const canvas = useRef<HTMLCanvasElement>(null);
  const indices = useMemo(
    () => Uint8Array.from(atob(shape.pixels), (letter) => letter.charCodeAt(0)),
    [shape.pixels],
  );
  const across = Math.max(shape.across, 1);
  const down = Math.max(Math.round(indices.length / across), 1);
  const colors = shape.table.map(css).join(" ");
  useLayoutEffect(() => {
    const pen = canvas.current?.getContext("2d");
    if (!pen) return;
    const data = new ImageData(across, down);
    new Uint32Array(data.data.buffer).set(paintedWords(indices, colors.split(" ")));
    pen.putImageData(data, 0, 0);
  }, [indices, across, down, colors]);
  return (
    <foreignObject x={x} y={y} width={width} height={height}>
      <canvas
        ref={canvas}
        width={across}
        height={down}
        title={shape.title}
        className="block size-full"
        style={{ imageRendering: "pixelated" }}
      />
    </foreignObject>
  );
}

function Shape({ shape, css }: { shape: DrawnShape; css: (color: string) => string }) {
  // What is no code of a color is one of the neutrals of the interface, by its name.
  const paint = (color: string) =>
    color.startsWith("#") ? css(color) : color === "none" ? "none" : `var(--${color})`;
  const [a = 0, b = 0, c = 0, d = 0] = shape.at;
  const title = shape.title ? <title>{shape.title}</title> : null;
  const look = { fill: paint(shape.fill), stroke: paint(shape.stroke), strokeWidth: shape.size };
  switch (shape.kind) {
    case "rect":
      return (
        <rect x={a} y={b} width={Math.max(c, 0)} height={Math.max(d, 0)} {...look}>
          {title}
        </rect>
      );
    case "line":
      return <line x1={a} y1={b} x2={c} y2={d} {...look} />;
    case "circle":
      return (
        <circle cx={a} cy={b} r={c} {...look}>
          {title}
        </circle>
      );
    case "path":
      return (
        <path d={shape.path} {...look}>
          {title}
        </path>
      );
    case "text":
      return (
        <text
          x={a}
          y={b}
          fontSize={shape.size}
          fill={paint(shape.fill)}
          textAnchor={shape.anchor as "start" | "middle" | "end"}
          fontWeight={shape.bold ? 600 : 400}
        >
          {shape.text}
        </text>
      );
    default:
      return <Pixels shape={shape} css={css} />;
  }
}

interface Props {
  drawing: Drawing;
  /** Swatches that are pointed at elsewhere. */
  hovered: ReadonlySet<string>;
  onHover?: (ids: readonly string[]) => void;
  /** Where the handle stands, in degrees, and its change. */
  angle?: number;
  onTurn?: (degrees: number) => void;
}

/** A check's picture: artist's colors through the lens, everything else in the surround's neutrals. */
export function DrawingView({ drawing, hovered, onHover, angle = 0, onTurn }: Props) {
  const lens = useLens();
  const sheet = useRef<SVGSVGElement>(null);
  const { handle } = drawing;
  const turnTo = (event: PointerEvent) => {
    const rect = sheet.current?.getBoundingClientRect();
    if (!rect || !handle) return;
    const scale = rect.width / drawing.width;
    const x = (event.clientX - rect.left) / scale - handle.x;
    const y = (event.clientY - rect.top) / scale - handle.y;
    onTurn?.(Math.round((Math.atan2(-y, x) * 180) / Math.PI + 360) % 360);
  };
  const lamp = handle && {
    x: handle.x + handle.radius * Math.cos((angle * Math.PI) / 180),
    y: handle.y - handle.radius * Math.sin((angle * Math.PI) / 180),
  };
  return (
    <svg
      ref={sheet}
      viewBox={`-3 -3 ${drawing.width + 6} ${drawing.height + 6}`}
      role="img"
      aria-label={drawing.caption}
      className="block h-auto w-full max-w-[980px]"
      data-drawing=""
    >
      {drawing.shapes.map((shape, place) => {
        const points = shape.ids.length > 0 && onHover;
        return (
          <g
            // biome-ignore lint/suspicious/noArrayIndexKey: shapes have no identity but their place
            key={place}
            opacity={hovered.size > 0 && shape.ids.length > 0 && !marked(shape, hovered) ? 0.25 : 1}
            {...(points
              ? { onPointerEnter: () => onHover(shape.ids), onPointerLeave: () => onHover([]) }
              : {})}
          >
            <Shape shape={shape} css={lens.css} />
          </g>
        );
      })}
      {handle && lamp && onTurn && (
        <g>
          <circle cx={handle.x} cy={handle.y} r={handle.radius} fill="none" stroke="var(--line)" />
          <line x1={handle.x} y1={handle.y} x2={lamp.x} y2={lamp.y} stroke="var(--quiet)" />
          <circle
            cx={lamp.x}
            cy={lamp.y}
            r={8}
            fill="var(--ground)"
            stroke="var(--ink)"
            strokeWidth={2}
            role="slider"
            tabIndex={0}
            aria-label="Where the lamp stands, in degrees"
            aria-valuenow={angle}
            aria-valuemin={0}
            aria-valuemax={359}
            className="cursor-grab touch-none outline-offset-2"
            onPointerDown={(event) => event.currentTarget.setPointerCapture(event.pointerId)}
            onPointerMove={(event) => event.currentTarget.hasPointerCapture(event.pointerId) && turnTo(event)}
            onKeyDown={(event) => {
              const step = { ArrowLeft: 5, ArrowUp: 5, ArrowRight: -5, ArrowDown: -5 }[event.key];
              if (step === undefined) return;
              event.preventDefault();
              event.stopPropagation();
              onTurn((angle + step * (event.shiftKey ? 3 : 1) + 360) % 360);
            }}
          />
        </g>
      )}
    </svg>
  );
}
