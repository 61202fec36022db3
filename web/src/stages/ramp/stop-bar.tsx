import { type KeyboardEvent, type PointerEvent, useRef, useState } from "react";
import type { Ramp } from "../../api/types";
import { Patch } from "../../lens/patch";

interface Props {
  stops: Ramp["stops"];
  /** Whether stops stand where they are put; with even steps the colors say where. */
  movable: boolean;
  selected: number | null;
  onSelect: (place: number) => void;
  /** Called while a stop moves, with all positions. */
  onMove: (positions: number[]) => void;
  /** Called while a midpoint moves, as a share of its interval. */
  onBend: (place: number, midpoint: number) => void;
  onAdd: (share: number) => void;
  onRemove: (place: number) => void;
}

const STEP = 0.01;
const FINE = 0.001;
/** Pixels above or below the bar from which a stop that is let go is taken out. */
const AWAY = 44;

const rounded = (value: number) => Number(value.toFixed(4));

/**
 * The stops on their track. Drag, or use the arrow keys (Shift: fine); drag away or press Delete to take one out; click
 * the track for another. A stop never passes its neighbor; two at one place make a hard edge.
 */
export function StopBar({ stops, movable, selected, onSelect, onMove, onBend, onAdd, onRemove }: Props) {
  const track = useRef<HTMLDivElement>(null);
  const held = useRef<{ kind: "stop" | "middle"; place: number } | null>(null);
  const [leaving, setLeaving] = useState<number | null>(null);
  const place = (index: number, wanted: number) => {
    const low = stops[index - 1]?.position ?? 0;
    const high = stops[index + 1]?.position ?? 1;
    const at = Math.min(high, Math.max(low, wanted));
    onMove(stops.map((stop, other) => (other === index ? rounded(at) : stop.position)));
  };
  const bend = (index: number, wanted: number) => {
    const begin = stops[index]?.position ?? 0;
    const width = (stops[index + 1]?.position ?? 1) - begin;
    onBend(index, rounded(Math.min(0.99, Math.max(0.01, (wanted - begin) / width))));
  };
  const shareAt = (event: PointerEvent | React.MouseEvent) => {
    const rect = track.current?.getBoundingClientRect();
    return rect ? Math.min(1, Math.max(0, (event.clientX - rect.left) / rect.width)) : 0;
  };
  const isAway = (event: PointerEvent) => {
    const rect = track.current?.getBoundingClientRect();
    return rect !== undefined && (event.clientY < rect.top - AWAY || event.clientY > rect.bottom + AWAY);
  };
  const move = (event: PointerEvent) => {
    const grip = held.current;
    if (!grip) return;
    if (grip.kind === "middle") {
      bend(grip.place, shareAt(event));
      return;
    }
    const away = stops.length > 2 && isAway(event);
    setLeaving(away ? grip.place : null);
    if (movable && !away) place(grip.place, shareAt(event));
  };
  const release = () => {
    const grip = held.current;
    held.current = null;
    if (leaving !== null && grip?.kind === "stop") onRemove(leaving);
    setLeaving(null);
  };
  const press = (event: KeyboardEvent, index: number, kind: "stop" | "middle") => {
    const at = kind === "stop" ? (stops[index]?.position ?? 0) : (stops[index]?.midpoint ?? 0);
    const size = event.shiftKey ? FINE : STEP;
    if (kind === "stop" && (event.key === "Delete" || event.key === "Backspace")) {
      event.preventDefault();
      event.stopPropagation();
      if (stops.length > 2) onRemove(index);
      return;
    }
    const wanted = { ArrowLeft: at - size, ArrowRight: at + size, Home: 0, End: 1 }[event.key];
    if (wanted === undefined) return;
    event.preventDefault();
    event.stopPropagation();
    if (kind === "middle") bend(index, wanted);
    else if (movable) place(index, wanted);
  };
  const grip = (kind: "stop" | "middle", index: number) => ({
    onPointerDown: (event: PointerEvent) => {
      held.current = { kind, place: index };
      event.currentTarget.setPointerCapture(event.pointerId);
      event.stopPropagation();
      if (kind === "stop") onSelect(index);
    },
    onPointerUp: release,
    onPointerCancel: release,
    onClick: (event: React.MouseEvent) => event.stopPropagation(),
    onKeyDown: (event: KeyboardEvent) => press(event, index, kind),
  });
  return (
    <div className="grid grid-cols-[150px_1fr_184px] items-center gap-x-4">
      <span className="text-small text-quiet">Stops</span>
      {/* biome-ignore lint/a11y/useKeyWithClickEvents: the sentence adds a stop by keyboard */}
      {/* biome-ignore lint/a11y/noStaticElementInteractions: the sentence adds a stop by keyboard */}
      <div
        ref={track}
        className="relative h-8 cursor-copy touch-none"
        title="Click to add a stop with the color that is here"
        onPointerMove={move}
        onClick={(event) => onAdd(shareAt(event))}
      >
        <div className="absolute inset-x-0 top-1/2 h-px bg-ink" />
        {stops.map(
          (stop, index) =>
            stop.midpoint !== null && (
              <div
                // biome-ignore lint/suspicious/noArrayIndexKey: stops are their places
                key={`middle-${index}`}
                role="slider"
                tabIndex={0}
                aria-label={`Midpoint behind ${stop.name}`}
                aria-valuenow={Math.round(stop.midpoint * 100)}
                aria-valuemin={0}
                aria-valuemax={100}
                aria-valuetext={`${(stop.midpoint * 100).toFixed(1)} %`}
                title={`Half way from ${stop.name} to ${stops[index + 1]?.name} at ${Math.round(stop.midpoint * 100)} %. Drag, or use the arrow keys.`}
                className="absolute top-1 flex h-6 w-4 -translate-x-1/2 cursor-ew-resize items-center justify-center"
                style={{ left: `${stop.midpoint * 100}%` }}
                {...grip("middle", index)}
              >
                <span className="size-2 rotate-45 border border-ink bg-ground" />
              </div>
            ),
        )}
        {stops.map((stop, index) => (
          <div
            // biome-ignore lint/suspicious/noArrayIndexKey: stops are their places
            key={index}
            role="slider"
            tabIndex={0}
            aria-label={`Position of ${stop.name}`}
            aria-valuenow={Math.round(stop.share * 100)}
            aria-valuemin={0}
            aria-valuemax={100}
            aria-valuetext={`${(stop.share * 100).toFixed(1)} %`}
            aria-disabled={!movable}
            title={
              movable
                ? `${stop.name} at ${(stop.share * 100).toFixed(1)} %. Drag, or use the arrow keys (Shift: fine); Delete takes it out.`
                : `${stop.name} lies at ${(stop.share * 100).toFixed(1)} %: even steps put it there.`
            }
            className={`absolute top-0 flex h-8 w-6 -translate-x-1/2 justify-center outline-offset-0 ${movable ? "cursor-ew-resize" : "cursor-default"} ${leaving === index ? "translate-y-6 opacity-40" : ""}`}
            style={{ left: `${stop.share * 100}%`, zIndex: selected === index ? 2 : 1 }}
            {...grip("stop", index)}
          >
            <Patch
              color={stop.hex}
              className={`flex h-full w-3.5 items-end justify-center rounded-xs border-2 border-ink shadow-[inset_0_0_0_1.5px_var(--ground)] ${selected === index ? "outline-2 outline-offset-2 outline-ink" : ""}`}
              style={{ opacity: Math.max(stop.alpha, 0.15) }}
            >
              {stop.tied && (
                <span className="mb-1 size-1.5 rounded-full bg-ground shadow-[0_0_0_1px_var(--ink)]" />
              )}
            </Patch>
          </div>
        ))}
      </div>
      <span className="text-small text-quiet">Lightness and chroma</span>
    </div>
  );
}
