import { type KeyboardEvent, type PointerEvent, useRef } from "react";

interface Handle {
  name: string;
  hex: string;
  position: number;
}

interface Props {
  stops: Handle[];
  /** Called while a stop moves, with all positions. */
  onMove: (positions: number[]) => void;
}

const STEP = 0.01;

/** The stops on their track: drag, or move with the arrow keys (Shift: by ten). A stop never passes its neighbor. */
export function StopBar({ stops, onMove }: Props) {
  const track = useRef<HTMLDivElement>(null);
  const held = useRef<number | null>(null);
  const place = (index: number, wanted: number) => {
    const low = stops[index - 1]?.position ?? 0;
    const high = stops[index + 1]?.position ?? 1;
    const at = Math.min(high, Math.max(low, wanted));
    onMove(stops.map((stop, other) => (other === index ? Number(at.toFixed(4)) : stop.position)));
  };
  const move = (event: PointerEvent) => {
    const rect = track.current?.getBoundingClientRect();
    if (held.current === null || !rect) return;
    place(held.current, (event.clientX - rect.left) / rect.width);
  };
  const press = (event: KeyboardEvent, index: number) => {
    const stop = stops[index];
    const size = event.shiftKey ? STEP * 10 : STEP;
    const wanted = {
      ArrowLeft: (stop?.position ?? 0) - size,
      ArrowRight: (stop?.position ?? 0) + size,
      Home: 0,
      End: 1,
    }[event.key];
    if (wanted === undefined) return;
    event.preventDefault();
    event.stopPropagation();
    place(index, wanted);
  };
  return (
    <div className="grid grid-cols-[150px_1fr_150px] items-center gap-x-4">
      <span className="text-small text-quiet">Stops</span>
      <div ref={track} className="relative h-7 touch-none" onPointerMove={move}>
        <div className="absolute inset-x-0 top-1/2 h-px bg-line" />
        {stops.map((stop, index) => (
          <div
            // biome-ignore lint/suspicious/noArrayIndexKey: stops are their places
            key={index}
            role="slider"
            tabIndex={0}
            aria-label={`Position of ${stop.name}`}
            aria-valuenow={Math.round(stop.position * 100)}
            aria-valuemin={0}
            aria-valuemax={100}
            aria-valuetext={`${Math.round(stop.position * 100)} %`}
            title={`${stop.name} at ${Math.round(stop.position * 100)} %. Drag, or use the arrow keys.`}
            className="absolute top-0 flex h-7 w-6 -translate-x-1/2 cursor-ew-resize justify-center outline-offset-0"
            style={{ left: `${stop.position * 100}%` }}
            onPointerDown={(event) => {
              held.current = index;
              event.currentTarget.setPointerCapture(event.pointerId);
            }}
            onPointerUp={() => {
              held.current = null;
            }}
            onKeyDown={(event) => press(event, index)}
          >
            <span
              className="h-full w-3.5 rounded-xs border-2 border-ink shadow-[inset_0_0_0_1.5px_var(--ground)]"
              style={{ background: stop.hex }}
            />
          </div>
        ))}
      </div>
      <span className="text-small text-quiet">Lightness</span>
    </div>
  );
}
