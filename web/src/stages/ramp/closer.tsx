import { useQuery } from "@tanstack/react-query";
import { type PointerEvent, useEffect, useLayoutEffect, useRef, useState } from "react";
import { ask } from "../../api/queries";
import { useMenus, usePalette } from "../../bench/context";
import { Button } from "../../ui/button";
import { ChoiceWord, NumberWord } from "../../ui/sentence";
import { bytesOf, CurveBox, CurveLine, OutsideMarks, Samples } from "./samples";
import type { RampWork } from "./use-ramp";

const SHAPES = [
  { id: "linear", label: "a linear gradient", use: "From side to side, at any angle." },
  { id: "radial", label: "a radial gradient", use: "From a center outward. Drag to move the center." },
  {
    id: "conic",
    label: "a conic gradient",
    use: "Round a center. Drag the center, or turn the start from anywhere else.",
  },
] as const;
type Shape = (typeof SHAPES)[number]["id"];
/** Pixels round the center within which it is taken hold of. */
const GRIP = 22;

/** Where on the ramp a point of a shape lies, 0..1. Point and center in shares of the square, the angle in degrees. */
export function shareAt(
  shape: Shape,
  x: number,
  y: number,
  center: readonly [number, number],
  angle: number,
) {
  const turn = (angle * Math.PI) / 180;
  if (shape === "linear") {
    // As CSS has it: 0° goes up, and the line reaches both corners.
    const [dx, dy] = [Math.sin(turn), -Math.cos(turn)];
    const length = Math.abs(dx) + Math.abs(dy);
    return ((x - 0.5) * dx + (y - 0.5) * dy) / length + 0.5;
  }
  const [dx, dy] = [x - center[0], y - center[1]];
  if (shape === "radial") {
    const far = Math.max(
      ...[0, 1].flatMap((cx) => [0, 1].map((cy) => Math.hypot(cx - center[0], cy - center[1]))),
    );
    return Math.hypot(dx, dy) / far;
  }
  const around = (Math.atan2(dx, -dy) - turn) / (2 * Math.PI);
  return around - Math.floor(around);
}

/** The ramp laid out as it will be used. */
function ShapeView({ rgba, children }: { rgba: string; children: React.ReactNode }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const [shape, setShape] = useState<Shape>("linear");
  const [angle, setAngle] = useState(90);
  const [center, setCenter] = useState<readonly [number, number]>([0.5, 0.5]);
  const [size, setSize] = useState({ width: 320, height: 200 });
  const moves = useRef<"center" | "angle">("angle");
  useLayoutEffect(() => {
    const box = canvas.current?.parentElement;
    if (!box) return;
    const observer = new ResizeObserver(() => setSize({ width: box.clientWidth, height: box.clientHeight }));
    observer.observe(box);
    return () => observer.disconnect();
  }, []);
  useLayoutEffect(() => {
    const context = canvas.current?.getContext("2d");
    const { width, height } = size;
    if (!context || width < 2 || height < 2) return;
    const samples = bytesOf(rgba);
    const words = new Uint32Array(samples.buffer);
    const image = new ImageData(width, height);
    const out = new Uint32Array(image.data.buffer);
    // A square of the ramp's own, so that circles are round.
    const side = Math.max(width, height);
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++) {
        const px = shape === "linear" ? (x + 0.5) / width : (x + 0.5 - width / 2) / side + 0.5;
        const py = shape === "linear" ? (y + 0.5) / height : (y + 0.5 - height / 2) / side + 0.5;
        const share = shareAt(shape, px, py, center, angle);
        const at = Math.min(words.length - 1, Math.max(0, Math.floor(share * words.length)));
        out[y * width + x] = words[at] ?? 0;
      }
    context.putImageData(image, 0, 0);
  }, [rgba, shape, angle, center, size]);
  const drag = (event: PointerEvent) => {
    const rect = canvas.current?.getBoundingClientRect();
    if (!rect || event.buttons !== 1) return;
    const side = Math.max(rect.width, rect.height);
    const x = (event.clientX - rect.left - rect.width / 2) / side + 0.5;
    const y = (event.clientY - rect.top - rect.height / 2) / side + 0.5;
    if (event.type === "pointerdown") {
      event.currentTarget.setPointerCapture(event.pointerId);
      const away = Math.hypot(x - center[0], y - center[1]) * side;
      moves.current = shape === "radial" || (shape === "conic" && away < GRIP) ? "center" : "angle";
    }
    if (moves.current === "center") setCenter([x, y]);
    else {
      const [cx, cy] = shape === "conic" ? center : [0.5, 0.5];
      const turn = (Math.atan2(x - cx, -(y - cy)) * 180) / Math.PI;
      setAngle(Math.round((turn + 360) % 360));
    }
  };
  return (
    <div className="flex min-h-0 min-w-0 grow flex-col">
      <p className="mb-1 flex items-baseline gap-x-1 text-small leading-7">
        Shown as{" "}
        <ChoiceWord
          label="Shape"
          value={shape}
          choices={[...SHAPES]}
          onChange={(id) => setShape(id as Shape)}
        />
        {shape !== "radial" && (
          <>
            , {shape === "linear" ? "at" : "from"}{" "}
            <NumberWord
              label="Angle"
              value={angle}
              min={0}
              max={359}
              unit={() => "°"}
              hint="0° points up, 90° to the right. Or drag in the picture."
              onChange={setAngle}
            />
          </>
        )}
        {shape !== "linear" && (
          <Button className="ml-3" onClick={() => setCenter([0.5, 0.5])}>
            Center it
          </Button>
        )}
        <span className="grow" />
        {children}
      </p>
      <div className="checkered relative min-h-24 grow">
        <canvas
          ref={canvas}
          width={size.width}
          height={size.height}
          aria-label={`The ramp as ${SHAPES.find((entry) => entry.id === shape)?.label}`}
          role="img"
          className="absolute inset-0 size-full cursor-crosshair touch-none"
          onPointerDown={drag}
          onPointerMove={drag}
        />
        {shape !== "linear" && (
          <span
            aria-hidden="true"
            className="pointer-events-none absolute size-3 -translate-x-1/2 -translate-y-1/2 rounded-full border-2 border-ink shadow-[0_0_0_1.5px_var(--ground)]"
            style={{
              left: `calc(50% + ${(center[0] - 0.5) * Math.max(size.width, size.height)}px)`,
              top: `calc(50% + ${(center[1] - 0.5) * Math.max(size.width, size.height)}px)`,
            }}
          />
        )}
      </div>
    </div>
  );
}

/** The ramp in the colors that the palette has, dithered. */
function DitheredStrip({ work }: { work: RampWork }) {
  const palette = usePalette();
  const menus = useMenus();
  const [dither, setDither] = useState("floyd-steinberg");
  const [strength, setStrength] = useState(100);
  const known = menus.dithers.some((entry) => entry.id === dither)
    ? dither
    : (menus.dithers[0]?.id ?? "none");
  const wish = palette.swatches.length > 0 ? { ramp: work.recipe, dither: known, strength } : null;
  const image = useQuery(ask.rampDithered(palette, wish));
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    const bitmap = image.data;
    const target = canvas.current;
    if (!bitmap || !target) return;
    target.width = bitmap.width;
    target.height = bitmap.height;
    target.getContext("2d")?.drawImage(bitmap, 0, 0);
  }, [image.data]);
  const shown = image.error ? (
    <p role="alert" className="self-center text-small">
      {image.error.message}
    </p>
  ) : wish ? (
    <canvas
      ref={canvas}
      role="img"
      aria-label="The ramp dithered to the strip's colors"
      className="block h-12 w-full object-cover"
      style={{ imageRendering: "pixelated" }}
    />
  ) : (
    <p className="self-center text-small text-quiet">There is no swatch in the strip to dither with.</p>
  );
  return (
    <>
      <span className="pt-1 text-small text-quiet">In the strip’s colors</span>
      <span className="min-w-0">{shown}</span>
      <span />
      <span className="text-small leading-7 text-quiet">
        dithered{" "}
        <ChoiceWord label="Dither of the ramp" value={known} choices={menus.dithers} onChange={setDither} />
        {menus.dithers.find((entry) => entry.id === known)?.has_strength && (
          <>
            {" "}
            at{" "}
            <NumberWord
              label="Strength of the dither"
              value={strength}
              min={0}
              max={100}
              unit={() => "%"}
              hint="How much of the error is passed on."
              onChange={setStrength}
            />
          </>
        )}
      </span>
    </>
  );
}

/** One ramp by itself: laid out as it is used, its curves, its rings, in gray, to other eyes, and dithered. */
export function CloserView({ work }: { work: RampWork }) {
  const { drawing, state, recipe, set } = work;
  if (!drawing) return null;
  const { own, views } = drawing;
  const stepped = state.drawn === "stepped" && own.steps !== "";
  const rgba = stepped ? own.steps : own.rgba;
  return (
    <div className="grid min-h-0 grow grid-cols-[1fr_1fr] gap-x-6 overflow-y-auto pt-1">
      <ShapeView rgba={rgba}>
        <Button
          aria-pressed={stepped}
          className="aria-pressed:bg-ink aria-pressed:text-ground"
          disabled={recipe.steps == null}
          onClick={() => set({ drawn: stepped ? "continuous" : "stepped" })}
        >
          In steps
        </Button>
      </ShapeView>
      <div className="grid min-w-0 grid-cols-[130px_1fr] content-start gap-x-3 gap-y-1.5">
        <span className="self-center text-small text-quiet">Rings and gamut</span>
        <span className="relative block h-9">
          <Samples rgba={rgba} />
          <OutsideMarks spans={own.outside_spans} />
          {own.bands.map((at) => (
            <span
              key={at}
              className="pointer-events-none absolute top-0 h-full w-px bg-ink/70"
              style={{ left: `${at * 100}%` }}
            />
          ))}
        </span>
        <span className="self-center text-small text-quiet">Lightness</span>
        <CurveBox className="h-9 w-full">
          <CurveLine values={own.lightness} top={1} chord />
        </CurveBox>
        <span className="self-center text-small text-quiet">Chroma</span>
        <CurveBox className="h-7 w-full">
          <CurveLine values={own.chroma} top={0.33} />
        </CurveBox>
        {views.map((view) => (
          <span key={view.id} className="contents">
            <span className="self-center text-small text-quiet">{view.label}</span>
            <Samples rgba={view.rgba} className="h-6 w-full" />
          </span>
        ))}
        <DitheredStrip work={work} />
      </div>
    </div>
  );
}
