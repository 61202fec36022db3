import { type CSSProperties, type KeyboardEvent, useEffect, useRef } from "react";

interface Props {
  label: string;
  value: number;
  min: number;
  max: number;
  step: number;
  onChange: (value: number) => void;
  /** What it was let go at, or a key has brought it to. */
  onCommit?: (value: number) => void;
  /** A CSS gradient for the track; a plain line where it is left out. */
  track?: string;
  disabled?: boolean;
}

const WAYS: Record<string, number> = { ArrowLeft: -1, ArrowDown: -1, ArrowRight: 1, ArrowUp: 1 };

/** The value that lies some steps on, as near as floating point allows. */
export function stepped(
  value: number,
  steps: number,
  { min, max, step }: Pick<Props, "min" | "max" | "step">,
) {
  const next = min + (Math.round((value - min) / step) + steps) * step;
  return Number(Math.min(max, Math.max(min, next)).toPrecision(12));
}

/** The browser's own slider, with a bar for a thumb, so that the color under it stays visible; arrows step it, with Shift by ten. */
export function Slider({ label, value, min, max, step, onChange, onCommit, track, disabled }: Props) {
  const input = useRef<HTMLInputElement>(null);
  const letGo = useRef(onCommit);
  letGo.current = onCommit;
  useEffect(() => {
    // React's `onChange` is the browser's `input`; its `change` comes when the thumb is let go.
    const node = input.current;
    const commit = () => node && letGo.current?.(node.valueAsNumber);
    node?.addEventListener("change", commit);
    return () => node?.removeEventListener("change", commit);
  }, []);
  const press = (event: KeyboardEvent) => {
    const way = WAYS[event.key];
    if (!event.shiftKey || !way) return;
    event.preventDefault();
    const next = stepped(value, way * 10, { min, max, step });
    onChange(next);
    onCommit?.(next);
  };
  const part = max > min ? (Math.min(max, Math.max(min, value)) - min) / (max - min) : 0;
  return (
    <input
      ref={input}
      type="range"
      aria-label={label}
      className={`slider h-6 w-full min-w-0 touch-none pointer-coarse:h-11 ${track ? "" : "slider-plain"}`}
      style={{ "--track": track, "--part": part } as CSSProperties}
      value={value}
      min={min}
      max={max}
      step={step}
      disabled={disabled}
      onChange={(event) => onChange(event.target.valueAsNumber)}
      onKeyDown={press}
    />
  );
}
