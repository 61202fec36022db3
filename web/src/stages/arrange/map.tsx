import { useLayoutEffect, useState } from "react";
import type { Swatch } from "../../api/types";
import { useMenus, useShown } from "../../bench/context";
import { useLens } from "../../lens/lens";
import { useScreenParts } from "../../shell/store";
import { NumberWord, Sentence } from "../../ui/sentence";
import { Marquee } from "./marks";
import { Toolbar } from "./toolbar";
import { useCells } from "./use-cells";

const NEUTRAL_CHROMA = 0.02;
const MOST_DRAWN = 2048;
const EDGE = 26;

interface Dot {
  swatch: Swatch;
  index: number;
  x: number;
  y: number;
  r: number;
}

/** Places 0..1 across and down: of the disc by hue and chroma, and of the field by hue and lightness. */
function onDisc(swatch: Swatch, widest: number): [number, number] {
  const [, chroma, hue] = swatch.oklch;
  const angle = (hue / 180) * Math.PI;
  const radius = Math.min(1, chroma / widest) / 2;
  return [0.5 + radius * Math.cos(angle), 0.5 - radius * Math.sin(angle)];
}

const NEUTRALS = 0.09;
function onField(swatch: Swatch): [number, number] {
  const [lightness, chroma, hue] = swatch.oklch;
  const across = chroma < NEUTRAL_CHROMA ? NEUTRALS / 2 : NEUTRALS + ((1 - NEUTRALS) * hue) / 360;
  return [across, 1 - lightness];
}

type Point = { x: number; y: number };

/** The pieces of a line between two dots; one that is shorter over the ends of the hue goes out there and comes in. */
export function pieces(
  from: Point,
  to: Point,
  hues: { left: number; right: number } | null,
): [Point, Point][] {
  const span = hues ? hues.right - hues.left : 0;
  const isShorterOver = hues && Math.min(from.x, to.x) >= hues.left && Math.abs(from.x - to.x) > span / 2;
  if (!isShorterOver) return [[from, to]];
  const [west, east] = from.x < to.x ? [from, to] : [to, from];
  const toWest = west.x - hues.left;
  const toEast = hues.right - east.x;
  const y = west.y + ((east.y - west.y) * toWest) / Math.max(toWest + toEast, 1e-9);
  return [
    [west, { x: hues.left, y }],
    [east, { x: hues.right, y }],
  ];
}

function Links({
  dots,
  within,
  byId,
  hues,
}: {
  dots: Dot[];
  within: number;
  byId: Map<string, Dot>;
  hues: { left: number; right: number } | null;
}) {
  const shown = useShown();
  return (
    <>
      {dots.map((dot) => {
        const near = dot.swatch.nearest_delta;
        const other = dot.swatch.nearest === null ? undefined : shown[dot.swatch.nearest ?? -1];
        const end = other && byId.get(other.id);
        if (!end || near === null || near === undefined || near > within) return null;
        return (
          <g key={dot.swatch.id}>
            {[["#fff", 4.5] as const, ["#000", 2] as const].map(([stroke, wide]) =>
              pieces(dot, end, hues).map(([from, to]) => (
                <line
                  key={`${stroke}-${from.x}`}
                  x1={from.x}
                  y1={from.y}
                  x2={to.x}
                  y2={to.y}
                  stroke={stroke}
                  strokeWidth={wide}
                />
              )),
            )}
          </g>
        );
      })}
    </>
  );
}

function Panel({
  label,
  size,
  dots,
  within,
  round,
  axes,
}: {
  label: string;
  size: { width: number; height: number };
  dots: Dot[];
  within: number;
  round?: boolean;
  axes: [string, string];
}) {
  const lens = useLens();
  const { selection } = useScreenParts("selection");
  const byId = new Map(dots.map((dot) => [dot.swatch.id, dot]));
  const { width, height } = size;
  return (
    <figure className="m-0 min-w-0">
      <figcaption className="mb-1 text-small text-quiet">{label}</figcaption>
      <div className="relative" style={{ width, height }}>
        <svg aria-hidden="true" className="absolute inset-0 overflow-visible" width={width} height={height}>
          {round ? (
            <>
              {[0.25, 0.5, 0.75, 1].map((share) => (
                <circle
                  key={share}
                  cx={width / 2}
                  cy={height / 2}
                  r={(width / 2) * share}
                  fill="none"
                  stroke="var(--line)"
                />
              ))}
              <line x1={0} x2={width} y1={height / 2} y2={height / 2} stroke="var(--line)" />
              <line y1={0} y2={height} x1={width / 2} x2={width / 2} stroke="var(--line)" />
            </>
          ) : (
            <>
              {[0, 0.25, 0.5, 0.75, 1].map((share) => (
                <line
                  key={share}
                  x1={0}
                  x2={width}
                  y1={height * share}
                  y2={height * share}
                  stroke="var(--line)"
                />
              ))}
              <line x1={width * NEUTRALS} x2={width * NEUTRALS} y1={0} y2={height} stroke="var(--line)" />
            </>
          )}
        </svg>
        {dots.map(({ swatch, index, x, y, r }) => (
          <div
            key={swatch.id}
            data-swatch={swatch.id}
            data-index={index}
            title={`${index} · ${swatch.name} · ${swatch.hex}`}
            className={`absolute -translate-x-1/2 -translate-y-1/2 rounded-full ${
              selection.has(swatch.id)
                ? "z-10 shadow-[0_0_0_2px_var(--ground),0_0_0_4px_var(--ink)]"
                : "shadow-[0_0_0_1px_var(--ground)]"
            }`}
            style={{ left: x, top: y, width: r * 2, height: r * 2, background: lens.css(swatch.hex) }}
          />
        ))}
        <svg
          aria-hidden="true"
          className="pointer-events-none absolute inset-0 z-20 overflow-visible"
          width={width}
          height={height}
        >
          <Links
            dots={dots}
            within={within}
            byId={byId}
            hues={round ? null : { left: width * NEUTRALS, right: width }}
          />
        </svg>
        <span className="absolute -bottom-5 left-0 text-mini text-quiet">{axes[0]}</span>
        <span className="absolute -bottom-5 right-0 text-mini text-quiet">{axes[1]}</span>
      </div>
    </figure>
  );
}

/** Where every swatch lies in OKLab: hue and chroma on a disc, hue and lightness beside it; near twins are linked. */
export function MapView() {
  const shown = useShown();
  const menus = useMenus();
  const [tenths, setTenths] = useState(40);
  const [room, setRoom] = useState({ width: 900, height: 480 });
  const { box, marquee, handlers } = useCells({ shown });
  useLayoutEffect(() => {
    const area = box.current;
    if (!area) return;
    const observer = new ResizeObserver(() =>
      setRoom({ width: area.clientWidth, height: area.clientHeight }),
    );
    observer.observe(area);
    return () => observer.disconnect();
  }, [box]);
  const opaque = shown
    .map((swatch, index) => ({ swatch, index }))
    .filter(({ swatch }) => swatch.alpha > 0)
    .slice(0, MOST_DRAWN);
  const side = Math.max(160, Math.min(room.height - 2 * EDGE, room.width * 0.46));
  const wide = Math.max(160, room.width - side - 2 * EDGE);
  const radius = (swatch: Swatch) =>
    opaque.length > 300 ? 5 : 7 + Math.min(9, Math.sqrt(swatch.coverage ?? 0.01) * 22);
  const dots = (width: number, height: number, at: (swatch: Swatch) => [number, number]): Dot[] =>
    opaque.map(({ swatch, index }) => {
      const [x, y] = at(swatch);
      return { swatch, index, x: x * width, y: y * height, r: radius(swatch) };
    });
  const widest = Math.max(0.08, ...opaque.map(({ swatch }) => swatch.oklch[1])) * 1.08;
  const linked = opaque.filter(({ swatch }) => (swatch.nearest_delta ?? Infinity) <= tenths / 10).length;
  return (
    <>
      <Sentence label="What this view does">
        See how the colors lie, with near twins linked within{" "}
        <NumberWord
          label="Distance of linked twins"
          value={tenths}
          min={0}
          max={200}
          scale={10}
          unit={() => "ΔE"}
          hint="Swatches nearer than this to their nearest are joined by a line. Larger dots paint more."
          onChange={setTenths}
        />
        .
      </Sentence>
      <Toolbar>
        <span className="text-quiet">
          linked <strong className="font-semibold text-ink">{linked}</strong>
        </span>
      </Toolbar>
      <div
        ref={box}
        role="application"
        aria-label="Map of the palette. Click a dot to select it, draw a rectangle to select several."
        className="relative flex min-h-0 grow cursor-crosshair gap-8 overflow-hidden pt-1 pl-3 select-none"
        {...handlers}
      >
        <Panel
          label={`Hue round, chroma outward to ${Math.min(widest, menus.widest_chroma).toFixed(2)}`}
          size={{ width: side, height: side }}
          dots={dots(side, side, (swatch) => onDisc(swatch, widest))}
          within={tenths / 10}
          round
          axes={["", ""]}
        />
        <Panel
          label="Lightness upward, hue to the right; neutrals at the left"
          size={{ width: wide - 40, height: side }}
          dots={dots(wide - 40, side, onField)}
          within={tenths / 10}
          axes={["neutral", "hue 360°"]}
        />
        <Marquee box={marquee} />
      </div>
      <p className="sr-only">{opaque.map(({ swatch }) => swatch.name).join(", ")}</p>
    </>
  );
}
