import { useRef, useState } from "react";
import type { Description } from "../api/types";
import { cssOf } from "../ui/css-color";
import { Slider } from "../ui/slider";
import { useTyped } from "../ui/use-typed";

const STOPS = 9;
const LEAST_STRENGTH = 0.2;

export type Space = Description["spaces"][number];

export type Channel = Space["channels"][number];

/** A coordinate as it is written: shares in percent, RGB in 0 to 255, angles in degrees, as the space says. */
export function written({ by, digits }: Channel, value: number) {
  const unit = 10 ** digits;
  // Rounded first, and 0 added, so that a trace below nothing is not written as −0.
  return (Math.round(value * by * unit) / unit + 0).toFixed(digits);
}

export function NumberField({
  label,
  text,
  onKeep,
  onStep,
}: {
  label: string;
  text: string;
  onKeep: (typed: number) => void;
  onStep: (steps: number) => void;
}) {
  const [busy, setBusy] = useState(false);
  const { text: typed, type, drop } = useTyped(text, { held: busy });
  const rest = () => {
    setBusy(false);
    drop();
  };
  /** Escape leaves the field, and nothing that was typed is kept. */
  const leaving = useRef(false);
  const keep = () => {
    if (leaving.current) return;
    rest();
    const number = Number.parseFloat(typed);
    if (Number.isFinite(number) && typed !== text) onKeep(number);
  };
  return (
    <input
      aria-label={label}
      inputMode="decimal"
      className="w-full border-b border-transparent bg-transparent text-right outline-offset-1 hover:border-ink focus:border-ink"
      value={typed}
      onChange={(event) => {
        setBusy(true);
        type(event.target.value);
      }}
      onFocus={(event) => event.target.select()}
      onBlur={keep}
      onKeyDown={(event) => {
        const step = { ArrowUp: 1, ArrowDown: -1 }[event.key];
        if (step) {
          event.preventDefault();
          rest();
          onStep(step * (event.shiftKey ? 10 : 1));
        } else if (event.key === "Enter") keep();
        else if (event.key === "Escape") {
          rest();
          leaving.current = true;
          event.currentTarget.blur();
          leaving.current = false;
        }
        event.stopPropagation();
      }}
    />
  );
}

/** One channel: its slider on a track of the colors it leads to, and its number. */
export function ChannelRow({
  space,
  place,
  color,
  onMove,
  onCommit,
}: {
  space: Space;
  place: number;
  color: readonly number[];
  onMove: (coords: number[]) => void;
  onCommit: (coords: number[]) => void;
}) {
  const channel = space.channels[place];
  if (!channel) return null;
  const name = channel.label;
  const value = color[place] ?? 0;
  const at = (next: number) => color.map((other, index) => (index === place ? next : other));
  const { by, digits } = channel;
  const unit = 1 / by / 10 ** digits;
  // Where there is no chroma, a hue track would be gray from end to end.
  const base = color.map((other, index) => {
    const beside = space.channels[index];
    return channel.is_hue && beside?.is_strength ? Math.max(other, LEAST_STRENGTH * beside.high) : other;
  });
  const stops = Array.from(
    { length: channel.is_hue ? 13 : STOPS },
    (_, step, count = channel.is_hue ? 12 : STOPS - 1) => {
      const next = channel.low + ((channel.high - channel.low) * step) / count;
      return cssOf(
        space.css,
        base.map((other, index) => (index === place ? next : other)),
      );
    },
  );
  return (
    <div className="contents">
      <span className="truncate">{name}</span>
      <Slider
        label={name}
        value={Number(Math.min(channel.high, Math.max(channel.low, value)).toFixed(6))}
        min={channel.low}
        max={channel.high}
        step={unit}
        track={`linear-gradient(90deg, ${stops.join(", ")})`}
        onChange={(next) => onMove(at(next))}
        onCommit={(next) => onCommit(at(next))}
      />
      <NumberField
        label={`${name}, number`}
        text={written(channel, value)}
        onKeep={(typed) => onCommit(at(typed / by))}
        onStep={(steps) => onCommit(at(value + steps * unit))}
      />
    </div>
  );
}
