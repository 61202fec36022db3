import { useLayoutEffect, useMemo, useRef } from "react";
import type { Lane } from "../../api/client";
import type { Drawn } from "./store";

const CURVE = { width: 150, height: 40 };

function bytes(base64: string) {
  return Uint8ClampedArray.from(atob(base64), (character) => character.charCodeAt(0));
}

/** The samples of a lane, stretched over its width. */
function Band({ rgba }: { rgba: string }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const samples = useMemo(() => bytes(rgba), [rgba]);
  useLayoutEffect(() => {
    const image = new ImageData(samples, samples.length / 4, 1);
    canvas.current?.getContext("2d")?.putImageData(image, 0, 0);
  }, [samples]);
  return <canvas ref={canvas} width={samples.length / 4} height={1} className="block size-full" />;
}

/** Lightness from end to end over the straight line between the ends. */
function Curve({ lightness }: { lightness: number[] }) {
  const last = lightness.length - 1;
  const point = (value: number, place: number) =>
    `${((place / last) * CURVE.width).toFixed(1)},${((1 - value) * CURVE.height).toFixed(1)}`;
  return (
    <svg
      viewBox={`0 0 ${CURVE.width} ${CURVE.height}`}
      className="block min-h-8 w-full grow overflow-visible"
      preserveAspectRatio="none"
      aria-hidden="true"
    >
      <polyline
        points={`${point(lightness[0] ?? 0, 0)} ${point(lightness[last] ?? 0, last)}`}
        fill="none"
        stroke="var(--quiet)"
        strokeWidth={1}
        vectorEffect="non-scaling-stroke"
      />
      <polyline
        points={lightness.map(point).join(" ")}
        fill="none"
        stroke="var(--ink)"
        strokeWidth={2}
        vectorEffect="non-scaling-stroke"
      />
    </svg>
  );
}

interface Props {
  lane: Lane;
  drawn: Drawn;
  chosen: boolean;
  onChoose: () => void;
}

/** One way from the first stop to the last: its name, the ramp itself, and how its lightness runs. */
export function LaneRow({ lane, drawn, chosen, onChoose }: Props) {
  return (
    <label className="group grid cursor-pointer grid-cols-[150px_1fr_150px] items-stretch gap-x-4">
      <input
        type="radio"
        name="lane"
        className="peer sr-only"
        checked={chosen}
        onChange={onChoose}
        aria-label={`${lane.label}: ${lane.use}; dips ${lane.dip.toFixed(2)}, rises ${lane.rise.toFixed(2)}`}
      />
      <span className="min-w-0 self-center">
        <span className="flex items-center gap-2 text-body font-semibold">
          <span
            aria-hidden="true"
            className={`size-2.5 shrink-0 rounded-full border border-ink ${chosen ? "bg-ink" : ""}`}
          />
          {lane.label}
        </span>
        <span className="block pl-[18px] text-small leading-tight text-quiet">{lane.use}</span>
      </span>
      <span
        className={`checkered flex overflow-hidden group-has-focus-visible:outline-2 group-has-focus-visible:outline-offset-4 group-has-focus-visible:outline-ink ${
          chosen ? "shadow-[0_0_0_2px_var(--ground),0_0_0_4px_var(--ink)]" : ""
        }`}
      >
        {drawn === "continuous" ? (
          <Band rgba={lane.rgba} />
        ) : (
          lane.steps.map((hex, place) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: steps are their places
            <span key={place} title={hex} className="grow" style={{ background: hex }} />
          ))
        )}
      </span>
      <span className="flex min-w-0 flex-col justify-between">
        <Curve lightness={lane.lightness} />
        <span className="block text-small leading-tight text-quiet">
          dips <strong className="font-semibold text-ink">{lane.dip.toFixed(2)}</strong>
          {lane.rise > lane.dip && lane.rise >= 0.005 ? ` · rises ${lane.rise.toFixed(2)}` : ""}
        </span>
      </span>
    </label>
  );
}
