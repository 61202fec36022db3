import { useQuery } from "@tanstack/react-query";
import { type PointerEvent, useRef } from "react";
import { ask } from "../../api/queries";
import type { Swatch } from "../../api/types";
import { usePalette } from "../../bench/context";

const LEAF = 14;
const HEIGHT = 118;
const CEILING = 24;

interface Node {
  x: number;
  height: number;
}

/** Leaves in an order in which no two joins cross. */
export function leafOrder(count: number, joins: { left: number; right: number }[]): number[] {
  const members = Array.from({ length: count }, (_, place) => [place]);
  for (const { left, right } of joins) {
    members[left] = [...(members[left] ?? []), ...(members[right] ?? [])];
    members[right] = [];
  }
  return members.flat();
}

/** Where each join is drawn: its two sides, leaves in the middle of their own columns, and the height it has. */
export function joinLines(
  order: number[],
  joins: { left: number; right: number; height: number }[],
  step: number,
) {
  const nodes: Node[] = order.map(() => ({ x: 0, height: 0 }));
  order.forEach((place, at) => {
    nodes[place] = { x: (at + 0.5) * step, height: 0 };
  });
  return joins.map(({ left, right, height }) => {
    const a = nodes[left] as Node;
    const b = nodes[right] as Node;
    nodes[left] = { x: (a.x + b.x) / 2, height };
    return { key: `${left}-${right}`, a, b, height };
  });
}

/** How near twins join, as a tree over their colors; the line is the tolerance and can be dragged. */
export function MergeTree({
  ids,
  tolerance,
  onTolerance,
}: {
  ids: string[] | null;
  tolerance: number;
  onTolerance: (tolerance: number) => void;
}) {
  const palette = usePalette();
  const held = useRef(false);
  const asked = ids ?? palette.swatches.map((swatch) => swatch.id);
  const tree = useQuery({
    ...ask.mergeTree(palette, ids),
    enabled: asked.length > 1 && asked.length <= 512,
    placeholderData: (before) => before,
  });
  if (!tree.data) return null;
  const byId = new Map(palette.swatches.map((swatch) => [swatch.id, swatch]));
  const swatches = tree.data.ids
    .map((id) => byId.get(id))
    .filter((swatch): swatch is Swatch => Boolean(swatch));
  if (swatches.length !== tree.data.ids.length) return null;
  const order = leafOrder(swatches.length, tree.data.joins);
  const step = Math.max(3, Math.min(26, 420 / swatches.length));
  const width = step * swatches.length;
  const ceiling = Math.max(CEILING, tolerance * 1.25);
  const y = (height: number) => HEIGHT - (Math.min(height, ceiling) / ceiling) * (HEIGHT - 6);
  const lines = joinLines(order, tree.data.joins, step);
  const drag = (event: PointerEvent<SVGSVGElement>) => {
    const rect = event.currentTarget.getBoundingClientRect();
    const share = (HEIGHT - (event.clientY - rect.top)) / (HEIGHT - 6);
    onTolerance(Math.round(Math.min(20, Math.max(0, share * ceiling)) * 10) / 10);
  };
  return (
    <svg
      role="img"
      aria-label={`Merge tree of ${swatches.length} swatches, cut at ΔE ${tolerance}`}
      width={Math.max(width, 60)}
      height={HEIGHT + LEAF + 4}
      className="mb-3 block max-w-none cursor-ns-resize touch-none overflow-visible"
      onPointerDown={(event) => {
        held.current = true;
        event.currentTarget.setPointerCapture(event.pointerId);
        drag(event);
      }}
      onPointerMove={(event) => held.current && drag(event)}
      onPointerUp={() => {
        held.current = false;
      }}
    >
      {lines.map(({ key, a, b, height }) => {
        const joined = height <= tolerance;
        return (
          <path
            key={key}
            d={`M ${a.x} ${y(a.height)} V ${y(height)} H ${b.x} V ${y(b.height)}`}
            fill="none"
            stroke={joined ? "var(--ink)" : "var(--line)"}
            strokeWidth={joined ? 2 : 1}
            opacity={Math.min(a.height, b.height) > ceiling ? 0 : 1}
          />
        );
      })}
      {order.map((place, at) => {
        const swatch = swatches[place];
        return swatch ? (
          <rect
            key={swatch.id}
            x={at * step}
            y={HEIGHT + 2}
            width={step - (step > 6 ? 1 : 0)}
            height={LEAF}
            fill={swatch.alpha === 0 ? "none" : swatch.hex.slice(0, 7)}
            stroke={swatch.alpha === 0 ? "var(--line)" : "none"}
          >
            <title>{swatch.name}</title>
          </rect>
        ) : null;
      })}
      <line
        x1={-6}
        x2={Math.max(width, 60) + 6}
        y1={y(tolerance)}
        y2={y(tolerance)}
        stroke="var(--ink)"
        strokeWidth={1.5}
        strokeDasharray="5 4"
      />
    </svg>
  );
}
