import { type KeyboardEvent, type PointerEvent, useEffect, useRef, useState } from "react";
import type { Plane } from "../api/types";

interface Props {
  plane: Plane;
  label: string;
  /** Coordinates in the plane's space. */
  value: readonly number[];
  width: number;
  height: number;
  /** The coordinate that goes up stays. */
  holdUp?: boolean;
  onMove: (value: number[]) => void;
  onCommit: (value: number[]) => void;
  children?: React.ReactNode;
}

const ROUND: Record<string, number> = { oklch: 3, hsv: 3 };

/** The picture of a plane; the one before stays until the next is there. */
function usePlanePicture(plane: Plane, held: number, width: number, height: number) {
  const digits = plane.held === 2 || plane.space === "hsv" ? 1 : (ROUND[plane.space] ?? 3);
  const size = `width=${width}&height=${height}&reach=${plane.up_ends[1]}`;
  const wanted = `/api/colors/plane?kind=${plane.id}&held=${held.toFixed(digits)}&${size}`;
  const [shown, setShown] = useState<string | null>(null);
  useEffect(() => {
    const image = new Image();
    let gone = false;
    image.onload = () => !gone && setShown(wanted);
    image.src = wanted;
    return () => {
      gone = true;
    };
  }, [wanted]);
  return shown;
}

function share(value: number, [low = 0, high = 1]: number[]) {
  return Math.min(1, Math.max(0, (value - low) / (high - low)));
}

/** Where a color lies on a plane, in shares from the left and from below. */
export function placeOn(plane: Plane, value: readonly number[]): [number, number] {
  const across = value[plane.across] ?? 0;
  const up = value[plane.up] ?? 0;
  if (plane.is_round) {
    const radius = share(up, plane.up_ends) / 2;
    const angle = (across / 180) * Math.PI;
    return [0.5 + radius * Math.cos(angle), 0.5 + radius * Math.sin(angle)];
  }
  return [share(across, plane.across_ends), share(up, plane.up_ends)];
}

/** The coordinates at a place of a plane. */
export function valueAt(plane: Plane, value: readonly number[], right: number, up: number): number[] {
  const next = [...value];
  const [low = 0, high = 1] = plane.up_ends;
  if (plane.is_round) {
    const x = right * 2 - 1;
    const y = up * 2 - 1;
    next[plane.across] = ((Math.atan2(y, x) * 180) / Math.PI + 360) % 360;
    next[plane.up] = Math.min(1, Math.hypot(x, y)) * high;
    return next;
  }
  const [left = 0, end = 1] = plane.across_ends;
  next[plane.across] = left + (end - left) * right;
  next[plane.up] = low + (high - low) * up;
  return next;
}

/** Two coordinates of a color across and up, the third held; what lies outside sRGB is hatched. */
export function ColorPlane(props: Props) {
  const { plane, label, value, width, height, holdUp, onMove, onCommit, children } = props;
  const box = useRef<HTMLDivElement>(null);
  const latest = useRef<number[] | null>(null);
  const source = usePlanePicture(plane, value[plane.held] ?? 0, width, height);
  const [right, up] = placeOn(plane, value);
  const held = (next: number[]) => {
    if (holdUp) next[plane.up] = value[plane.up] ?? 0;
    return next;
  };
  const place = (event: PointerEvent) => {
    const rect = box.current?.getBoundingClientRect() ?? new DOMRect();
    const x = Math.min(1, Math.max(0, (event.clientX - rect.left) / rect.width));
    const y = 1 - Math.min(1, Math.max(0, (event.clientY - rect.top) / rect.height));
    return held(valueAt(plane, value, x, y));
  };
  const press = (event: KeyboardEvent) => {
    const step = event.shiftKey ? 0.05 : 0.005;
    const moves: Record<string, [number, number]> = {
      ArrowLeft: [-step, 0],
      ArrowRight: [step, 0],
      ArrowUp: [0, step],
      ArrowDown: [0, -step],
    };
    const move = moves[event.key];
    if (!move) return;
    event.preventDefault();
    event.stopPropagation();
    const bound = (number: number) => Math.min(1, Math.max(0, number));
    onCommit(held(valueAt(plane, value, bound(right + move[0]), bound(up + move[1]))));
  };
  return (
    <div
      ref={box}
      role="slider"
      tabIndex={0}
      aria-label={label}
      aria-valuenow={Math.round(right * 100)}
      aria-valuemin={0}
      aria-valuemax={100}
      aria-valuetext={plane.label}
      className={`hatched relative cursor-crosshair touch-none overflow-hidden ${plane.is_round ? "rounded-full" : ""}`}
      style={{ height, width: plane.is_round ? width : undefined }}
      onKeyDown={press}
      onPointerDown={(event) => {
        event.currentTarget.setPointerCapture(event.pointerId);
        latest.current = place(event);
        onMove(latest.current);
      }}
      onPointerMove={(event) => {
        if (!latest.current) return;
        latest.current = place(event);
        onMove(latest.current);
      }}
      onPointerUp={() => {
        if (latest.current) onCommit(latest.current);
        latest.current = null;
      }}
    >
      {source && <img src={source} alt="" draggable={false} className="pointer-events-none size-full" />}
      {children}
      <Pin right={right} up={up} />
    </div>
  );
}

/** A ring at a place of a plane, visible on every color. */
export function Pin({
  right,
  up,
  small,
  fill,
}: {
  right: number;
  up: number;
  small?: boolean;
  fill?: string;
}) {
  return (
    <span
      aria-hidden="true"
      className={`pointer-events-none absolute -translate-x-1/2 -translate-y-1/2 rounded-full border-2 border-white shadow-[0_0_0_1.5px_#000,inset_0_0_0_1px_#000] ${small ? "size-2.5" : "size-3.5"}`}
      style={{ left: `${right * 100}%`, top: `${(1 - up) * 100}%`, background: fill }}
    />
  );
}
