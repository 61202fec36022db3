import { Slider as Primitive } from "radix-ui";

interface Props {
  label: string;
  value: number;
  min: number;
  max: number;
  step: number;
  onChange: (value: number) => void;
  onCommit?: (value: number) => void;
  /** A CSS gradient for the track; a plain line where it is left out. */
  track?: string;
  disabled?: boolean;
}

/** A slider whose thumb is a bar, so that the color under it stays visible. */
export function Slider({ label, value, min, max, step, onChange, onCommit, track, disabled }: Props) {
  return (
    <Primitive.Root
      className="relative flex h-6 w-full pointer-coarse:h-11 touch-none items-center select-none"
      value={[value]}
      min={min}
      max={max}
      step={step}
      disabled={disabled}
      onValueChange={([next]) => next !== undefined && onChange(next)}
      onValueCommit={([next]) => next !== undefined && onCommit?.(next)}
    >
      <Primitive.Track
        className={`relative w-full grow rounded-full ${track ? "h-3" : "h-1 bg-line"}`}
        style={track ? { background: track } : undefined}
      >
        {!track && <Primitive.Range className="absolute h-full rounded-full bg-ink" />}
      </Primitive.Track>
      <Primitive.Thumb
        aria-label={label}
        className="block h-5 w-2 rounded-xs border border-ground bg-ink outline-offset-2"
      />
    </Primitive.Root>
  );
}
