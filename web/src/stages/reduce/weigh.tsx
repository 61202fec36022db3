import { type PointerEvent, useRef, useState } from "react";
import type { View } from "../../picture/view";
import { TextButton } from "../../ui/button";
import { type Mark, markFromDrag, type Shape, WEIGHTS, weightLabel } from "./marks";

export interface WeighState {
  shape: Shape;
  weight: number;
  radius: number;
}

interface BarProps {
  state: WeighState;
  marks: Mark[];
  onState: (state: WeighState) => void;
  onMarks: (marks: Mark[]) => void;
  onDone: () => void;
}

function Choice({
  name,
  options,
  value,
  onChange,
}: {
  name: string;
  options: readonly (readonly [string, string])[];
  value: string;
  onChange: (value: string) => void;
}) {
  return (
    <fieldset className="m-0 flex items-center gap-1 border-0 p-0">
      <legend className="sr-only">{name}</legend>
      {options.map(([id, label]) => (
        <label
          key={id}
          className={`flex min-h-7 cursor-pointer items-center rounded-md px-2 has-focus-visible:outline-2 has-focus-visible:outline-ink ${value === id ? "bg-ink font-semibold text-ground" : "hover:bg-raised"}`}
        >
          <input
            type="radio"
            name={name}
            className="absolute opacity-0"
            checked={value === id}
            onChange={() => onChange(id)}
          />
          {label}
        </label>
      ))}
    </fieldset>
  );
}

/** What a mark is drawn with, and how much it counts. */
export function WeighBar({ state, marks, onState, onMarks, onDone }: BarProps) {
  return (
    <section
      aria-label="Weigh parts of the picture"
      className="mb-2 flex min-h-9 items-center gap-3 text-small"
    >
      <span className="text-quiet">Drag over a part with a</span>
      <Choice
        name="Shape"
        options={[
          ["rectangle", "rectangle"],
          ["brush", "brush"],
        ]}
        value={state.shape}
        onChange={(shape) => onState({ ...state, shape: shape as Shape })}
      />
      <span className="text-quiet">and count it</span>
      <Choice
        name="Weight"
        options={WEIGHTS.map((weight) => [String(weight), weightLabel(weight)] as const)}
        value={String(state.weight)}
        onChange={(weight) => onState({ ...state, weight: Number(weight) })}
      />
      <span className="grow" />
      <TextButton disabled={marks.length === 0} onClick={() => onMarks(marks.slice(0, -1))}>
        Take the last back
      </TextButton>
      <TextButton disabled={marks.length === 0} onClick={() => onMarks([])}>
        Clear all
      </TextButton>
      <TextButton onClick={onDone}>Done</TextButton>
    </section>
  );
}

interface LayerProps {
  view: View;
  width: number;
  height: number;
  marks: Mark[];
  /** Null shows the marks; otherwise the pointer draws. */
  state: WeighState | null;
  onMark: (mark: Mark) => void;
}

function pathOf(mark: Mark & { shape: "brush" }, width: number, height: number) {
  const [first, ...rest] = mark.points;
  if (!first) return "";
  const at = ([x, y]: readonly number[]) => `${(x ?? 0) * width} ${(y ?? 0) * height}`;
  return `M ${at(first)} ${rest.map((point) => `L ${at(point)}`).join(" ")} L ${at(rest.at(-1) ?? first)}`;
}

function Shown({ mark, width, height }: { mark: Mark; width: number; height: number }) {
  const fill = mark.weight === 0 ? "url(#ignored)" : "url(#heavier)";
  if (mark.shape === "rectangle") {
    const box = {
      x: mark.x * width,
      y: mark.y * height,
      width: mark.width * width,
      height: mark.height * height,
    };
    return (
      <>
        <rect {...box} fill={fill} stroke="#fff" strokeWidth={3} vectorEffect="non-scaling-stroke" />
        <rect {...box} fill="none" stroke="#000" strokeWidth={1} vectorEffect="non-scaling-stroke" />
      </>
    );
  }
  const reach = mark.radius * 2 * Math.max(width, height);
  return (
    <path
      d={pathOf(mark, width, height)}
      fill="none"
      stroke={fill}
      strokeWidth={reach}
      strokeLinecap="round"
      strokeLinejoin="round"
    />
  );
}

/** The marks over the picture: hatched where ignored, dotted where they count more. */
export function WeighLayer({ view, width, height, marks, state, onMark }: LayerProps) {
  const [drawn, setDrawn] = useState<Mark | null>(null);
  const path = useRef<{ x: number; y: number }[] | null>(null);
  const place = (event: PointerEvent<SVGSVGElement>) => {
    const rect = event.currentTarget.getBoundingClientRect();
    return {
      x: (event.clientX - rect.left - view.x) / view.zoom,
      y: (event.clientY - rect.top - view.y) / view.zoom,
    };
  };
  const current = (weigh: WeighState) =>
    markFromDrag(weigh.shape, path.current ?? [], { width, height }, weigh.weight, weigh.radius);
  const size = 12 / view.zoom;
  return (
    <svg
      role="img"
      aria-label={`${marks.length} marks`}
      className={`absolute inset-0 size-full ${state ? "cursor-crosshair" : "pointer-events-none"}`}
      onPointerDown={(event) => {
        if (!state || event.button !== 0) return;
        event.stopPropagation();
        event.currentTarget.setPointerCapture(event.pointerId);
        path.current = [place(event)];
      }}
      onPointerMove={(event) => {
        if (!state || !path.current) return;
        event.stopPropagation();
        path.current.push(place(event));
        setDrawn(current(state));
      }}
      onPointerUp={() => {
        if (!state || !path.current) return;
        const mark = current(state);
        path.current = null;
        setDrawn(null);
        if (mark) onMark(mark);
      }}
    >
      <defs>
        <pattern
          id="ignored"
          width={size}
          height={size}
          patternUnits="userSpaceOnUse"
          patternTransform="rotate(45)"
        >
          <rect width={size} height={size} fill="#0009" />
          <rect width={size / 3} height={size} fill="#fff9" />
        </pattern>
        <pattern id="heavier" width={size} height={size} patternUnits="userSpaceOnUse">
          <circle cx={size / 2} cy={size / 2} r={size / 5} fill="#000" />
          <circle cx={size / 2} cy={size / 2} r={size / 8} fill="#fff" />
        </pattern>
      </defs>
      <g transform={`translate(${view.x} ${view.y}) scale(${view.zoom})`}>
        {[...marks, ...(drawn ? [drawn] : [])].map((mark, index) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: marks are their places
          <Shown key={index} mark={mark} width={width} height={height} />
        ))}
      </g>
    </svg>
  );
}
