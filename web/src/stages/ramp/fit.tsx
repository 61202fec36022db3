import { useQuery } from "@tanstack/react-query";
import { type PointerEvent, useRef, useState } from "react";
import { ask } from "../../api/queries";
import { usePalette } from "../../bench/context";
import { Figure } from "../../bench/draft-bar";
import { OriginalArea, PictureWord, usePictures } from "../../bench/picture-word";
import type { View } from "../../picture/view";
import { Button } from "../../ui/button";
import { NumberWord, Sentence } from "../../ui/sentence";
import { CurveBox, CurveLine, Samples } from "./samples";
import type { RampWork } from "./use-ramp";

type Line = readonly [number, number, number, number];
const ACROSS: Line = [0.05, 0.5, 0.95, 0.5];

/** A line over the picture, drawn or moved by its ends. */
function LineLayer({
  view,
  width,
  height,
  line,
  onChange,
}: {
  view: View;
  width: number;
  height: number;
  line: Line;
  onChange: (line: Line) => void;
}) {
  const held = useRef<0 | 1 | null>(null);
  const box = useRef<SVGSVGElement>(null);
  const x = (share: number) => view.x + share * width * view.zoom;
  const y = (share: number) => view.y + share * height * view.zoom;
  const at = (event: PointerEvent): [number, number] => {
    const rect = box.current?.getBoundingClientRect();
    const clamp = (value: number) => Number(Math.min(1, Math.max(0, value)).toFixed(4));
    return [
      clamp((event.clientX - (rect?.left ?? 0) - view.x) / (width * view.zoom)),
      clamp((event.clientY - (rect?.top ?? 0) - view.y) / (height * view.zoom)),
    ];
  };
  const put = (end: 0 | 1, point: readonly [number, number]) =>
    onChange(end === 0 ? [...point, line[2], line[3]] : [line[0], line[1], ...point]);
  const ends = [
    [line[0], line[1]],
    [line[2], line[3]],
  ] as const;
  return (
    <svg
      ref={box}
      className="absolute inset-0 size-full cursor-crosshair touch-none"
      aria-label="The line that the ramp is read along"
      onPointerDown={(event) => {
        event.stopPropagation();
        event.currentTarget.setPointerCapture(event.pointerId);
        const point = at(event);
        held.current = 1;
        onChange([...point, ...point]);
      }}
      onPointerMove={(event) => held.current !== null && put(held.current, at(event))}
      onPointerUp={() => {
        held.current = null;
      }}
    >
      <line x1={x(line[0])} y1={y(line[1])} x2={x(line[2])} y2={y(line[3])} stroke="#fff" strokeWidth={4} />
      <line x1={x(line[0])} y1={y(line[1])} x2={x(line[2])} y2={y(line[3])} stroke="#000" strokeWidth={1.5} />
      {ends.map((end, index) => (
        <circle
          // biome-ignore lint/suspicious/noArrayIndexKey: the first end and the last
          key={index}
          cx={x(end[0])}
          cy={y(end[1])}
          r={7}
          fill="#fff"
          stroke="#000"
          strokeWidth={2}
          tabIndex={0}
          role="slider"
          aria-label={index === 0 ? "Beginning of the line" : "End of the line"}
          aria-valuenow={Math.round(end[0] * 100)}
          aria-valuetext={`${(end[0] * 100).toFixed(0)} %, ${(end[1] * 100).toFixed(0)} %`}
          onPointerDown={(event) => {
            event.stopPropagation();
            box.current?.setPointerCapture(event.pointerId);
            held.current = index as 0 | 1;
          }}
          onKeyDown={(event) => {
            const size = event.shiftKey ? 0.05 : 0.01;
            const step = {
              ArrowLeft: [-size, 0],
              ArrowRight: [size, 0],
              ArrowUp: [0, -size],
              ArrowDown: [0, size],
            }[event.key];
            if (!step) return;
            event.preventDefault();
            event.stopPropagation();
            const clamp = (value: number) => Math.min(1, Math.max(0, value));
            put(index as 0 | 1, [clamp(end[0] + (step[0] ?? 0)), clamp(end[1] + (step[1] ?? 0))]);
          }}
        />
      ))}
    </svg>
  );
}

/** A ramp read along a line across a picture, as the fewest stops that keep within a tolerance. */
export function FitView({ work }: { work: RampWork }) {
  const palette = usePalette();
  const { pictures, field, picture, choose } = usePictures();
  const [line, setLine] = useState<Line>(ACROSS);
  const [tolerance, setTolerance] = useState(10);
  const long = Math.hypot(line[2] - line[0], line[3] - line[1]) > 0.005;
  const fit = useQuery(
    ask.rampFit(
      palette,
      picture && long ? { picture: picture.id, line: [...line], tolerance: tolerance / 10 } : null,
    ),
  );
  const found = fit.error ? undefined : fit.data;
  if (!picture)
    return (
      <p className="text-quiet">
        There is no picture on the shelf yet. Drop one anywhere: a ramp can be read from any line across it.
      </p>
    );
  return (
    <div className="flex min-h-0 grow flex-col">
      <Sentence label="What is read">
        Read a ramp along the line across{" "}
        <PictureWord pictures={pictures} field={field} picture={picture} onChoose={choose} />, within{" "}
        <NumberWord
          label="Tolerance"
          value={tolerance}
          min={1}
          max={200}
          scale={10}
          unit={() => "ΔE"}
          hint="How far the ramp may lie from what was read. The smaller, the more stops."
          onChange={setTolerance}
        />
        .
      </Sentence>
      <div className="flex min-h-8 items-center gap-x-5 text-small text-quiet">
        {found ? (
          <>
            <Figure
              name={found.fewest ? "fewest stops" : "stops"}
              value={found.ramp.stops.length}
              title={
                found.fewest
                  ? "No fewer would keep within the tolerance"
                  : `${work.menus.most_stops} is the most a ramp takes`
              }
            />
            <Figure name="largest difference ΔE" value={found.worst.toFixed(2)} />
          </>
        ) : (
          <span>{long ? "Reading …" : "Draw a line from one color to another."}</span>
        )}
        {fit.error && (
          <span role="alert" className="text-ink">
            {fit.error.message}
          </span>
        )}
        <span className="grow" />
        <Button onClick={() => setLine(ACROSS)}>Across the middle</Button>
        <Button onClick={() => setLine([0.5, 0.05, 0.5, 0.95])}>Down the middle</Button>
        <Button primary disabled={!found} onClick={() => found && work.take(found.ramp)}>
          Work on this ramp
        </Button>
      </div>
      {found && (
        <div className="mb-2 grid grid-cols-[120px_1fr] items-center gap-x-3 gap-y-1 text-small text-quiet">
          <span>Read</span>
          <Samples rgba={found.samples} className="h-6 w-full" />
          <span>Difference</span>
          <CurveBox className="h-6 w-full border-b border-line">
            <CurveLine values={found.errors} top={Math.max(tolerance / 10, 0.1)} />
          </CurveBox>
        </div>
      )}
      <div className="flex min-h-0 grow">
        <OriginalArea picture={picture}>
          {(view) => (
            <LineLayer
              view={view}
              width={picture.width}
              height={picture.height}
              line={line}
              onChange={setLine}
            />
          )}
        </OriginalArea>
      </div>
    </div>
  );
}
