import { type PointerEvent, useRef } from "react";
import type { RampStop } from "../../api/types";
import { TextButton } from "../../ui/button";
import { NumberWord, PanelWord } from "../../ui/sentence";
import { STRAIGHT } from "./store";
import type { RampWork } from "./use-ramp";

const SIDE = 150;

/** The curve of an easing by hand: two handles on a small square. */
function HandleCurve({
  numbers,
  onChange,
}: {
  numbers: readonly number[];
  onChange: (numbers: number[]) => void;
}) {
  const box = useRef<SVGSVGElement>(null);
  const held = useRef<number | null>(null);
  const [x1 = 0.4, y1 = 0, x2 = 0.6, y2 = 1] = numbers;
  const put = (handle: number, x: number, y: number) => {
    const next = [x1, y1, x2, y2];
    next[handle * 2] = Number(Math.min(1, Math.max(0, x)).toFixed(3));
    next[handle * 2 + 1] = Number(Math.min(1, Math.max(0, y)).toFixed(3));
    onChange(next);
  };
  const move = (event: PointerEvent) => {
    const rect = box.current?.getBoundingClientRect();
    if (held.current === null || !rect) return;
    put(held.current, (event.clientX - rect.left) / rect.width, 1 - (event.clientY - rect.top) / rect.height);
  };
  const handles = [
    { x: x1, y: y1, from: [0, 0] as const },
    { x: x2, y: y2, from: [1, 1] as const },
  ];
  const at = (value: number) => value * SIDE;
  return (
    <svg
      ref={box}
      viewBox={`0 0 ${SIDE} ${SIDE}`}
      className="mt-2 block size-[150px] touch-none overflow-visible border border-line bg-ground"
      onPointerMove={move}
      onPointerUp={() => {
        held.current = null;
      }}
      aria-label="Curve of the easing"
    >
      <path
        d={`M0 ${SIDE} C${at(x1)} ${at(1 - y1)} ${at(x2)} ${at(1 - y2)} ${SIDE} 0`}
        fill="none"
        stroke="var(--ink)"
        strokeWidth={2}
      />
      {handles.map((handle, index) => (
        <g key={handle.from[0]}>
          <line
            x1={at(handle.from[0])}
            y1={at(1 - handle.from[1])}
            x2={at(handle.x)}
            y2={at(1 - handle.y)}
            stroke="var(--quiet)"
          />
          <circle
            cx={at(handle.x)}
            cy={at(1 - handle.y)}
            r={7}
            fill="var(--raised)"
            stroke="var(--ink)"
            strokeWidth={2}
            tabIndex={0}
            role="slider"
            aria-label={`Handle ${index + 1}`}
            aria-valuenow={Math.round(handle.x * 100)}
            aria-valuetext={`${handle.x.toFixed(2)}, ${handle.y.toFixed(2)}`}
            className="cursor-grab"
            onPointerDown={(event) => {
              held.current = index;
              event.currentTarget.setPointerCapture(event.pointerId);
            }}
            onKeyDown={(event) => {
              const size = event.shiftKey ? 0.01 : 0.05;
              const step = {
                ArrowLeft: [-size, 0],
                ArrowRight: [size, 0],
                ArrowUp: [0, size],
                ArrowDown: [0, -size],
              }[event.key];
              if (!step) return;
              event.preventDefault();
              event.stopPropagation();
              put(index, handle.x + (step[0] ?? 0), handle.y + (step[1] ?? 0));
            }}
          />
        </g>
      ))}
    </svg>
  );
}

/** How the interval behind a stop is passed. */
function EasingWord({
  stop,
  work,
  onChange,
}: {
  stop: RampStop;
  work: RampWork;
  onChange: (part: Partial<RampStop>) => void;
}) {
  const kinds = work.menus.easings;
  const kind = kinds.find((entry) => entry.id === (stop.easing?.kind ?? "linear")) ?? kinds[0];
  if (!kind) return null;
  const numbers = stop.easing?.numbers?.length
    ? stop.easing.numbers
    : kind.numbers.map((number) => number.usual);
  return (
    <PanelWord label="Easing" text={kind.label}>
      <fieldset className="m-0 grid gap-1 border-0 p-0">
        <legend className="sr-only">Easing</legend>
        {kinds.map((entry) => (
          <label
            key={entry.id}
            className="grid cursor-pointer grid-cols-[20px_1fr] items-start rounded px-1.5 py-1 hover:bg-ground"
          >
            <input
              type="radio"
              name="easing"
              className="mt-1 accent-ink"
              checked={entry.id === kind.id}
              onChange={() =>
                onChange({ easing: { kind: entry.id, numbers: entry.numbers.map((n) => n.usual) } })
              }
            />
            <span>
              <span className="block font-semibold">{entry.label}</span>
              <span className="block text-small text-quiet">{entry.use}</span>
            </span>
          </label>
        ))}
      </fieldset>
      {kind.numbers.length === 4 && (
        <HandleCurve
          numbers={numbers}
          onChange={(next) => onChange({ easing: { kind: kind.id, numbers: next } })}
        />
      )}
      {kind.numbers.length === 1 && (
        <p className="mt-2">
          <NumberWord
            label="Flat colors"
            value={Math.round(numbers[0] ?? 4)}
            min={kind.numbers[0]?.low ?? 2}
            max={kind.numbers[0]?.high ?? 256}
            unit={() => "flat colors"}
            hint="So many from this stop to the next, both among them."
            onChange={(count) => onChange({ easing: { kind: kind.id, numbers: [count] } })}
          />
        </p>
      )}
    </PanelWord>
  );
}

/** What can be said of the stop that is chosen, and of the way from it to the next. */
export function StopLine({ work }: { work: RampWork }) {
  const { state, recipe, drawing, menus, set, revise, edit } = work;
  const place = state.stop;
  const stop = place === null ? undefined : recipe.stops[place];
  const drawn = place === null ? undefined : drawing?.stops[place];
  if (place === null || !stop || !drawn)
    return (
      <p className="flex min-h-8 items-center pl-[166px] text-small text-quiet">
        Click a stop for its words. Click the track for another one, drag one away to take it out.
      </p>
    );
  const hears = menus.spacings.find((entry) => entry.id === recipe.spacing)?.hears_easing ?? true;
  const change = (part: Partial<RampStop>) =>
    revise({ stops: recipe.stops.map((other, index) => (index === place ? { ...other, ...part } : other)) });
  const isLast = place === recipe.stops.length - 1;
  const next = drawing?.stops[place + 1]?.name;
  return (
    <div className="flex min-h-8 flex-wrap items-center gap-x-3 pl-[166px] text-small">
      <strong className="font-semibold">{drawn.name}</strong>
      {hears && (
        <span>
          at{" "}
          <NumberWord
            label="Place of the stop"
            value={Math.round(drawn.position * 1000)}
            min={0}
            max={1000}
            scale={10}
            unit={() => "%"}
            hint="Where it stands on the track."
            onChange={(at) => {
              const low = drawing?.stops[place - 1]?.position ?? 0;
              const high = drawing?.stops[place + 1]?.position ?? 1;
              change({ position: Math.min(high, Math.max(low, at / 1000)) });
            }}
          />
        </span>
      )}
      {drawn.tied ? (
        <>
          <span className="text-quiet">follows its swatch</span>
          <TextButton
            title="The stop keeps this color and no longer follows the swatch"
            onClick={() => change({ swatch: null, text: null, color: drawn.color })}
          >
            Let go
          </TextButton>
        </>
      ) : (
        <span>
          alpha{" "}
          <NumberWord
            label="Alpha of the stop"
            value={Math.round(drawn.alpha * 100)}
            min={0}
            max={100}
            unit={() => "%"}
            hint="0 % is clear."
            onChange={(alpha) =>
              change({ swatch: null, text: null, color: { ...drawn.color, alpha: alpha / 100 } })
            }
          />
        </span>
      )}
      {!isLast && hears && (
        <span>
          to {next} it goes <EasingWord stop={stop} work={work} onChange={change} />
          {(stop.midpoint ?? 0.5) !== 0.5 && (
            <TextButton onClick={() => change({ midpoint: 0.5 })}>Midpoint to the middle</TextButton>
          )}
          {(stop.easing?.kind ?? "linear") !== "linear" && (
            <TextButton onClick={() => change({ easing: STRAIGHT })}>Straight</TextButton>
          )}
        </span>
      )}
      {!hears && <span className="text-quiet">even steps put it there; easings are not heard</span>}
      <span className="grow" />
      <TextButton onClick={() => void edit("duplicate", { place })}>Duplicate</TextButton>
      <TextButton
        disabled={recipe.stops.length <= 2}
        onClick={() => {
          set({ stop: null });
          void edit("remove", { place });
        }}
      >
        Take out
      </TextButton>
    </div>
  );
}
