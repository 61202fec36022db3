import { useLayoutEffect, useMemo, useRef } from "react";
import { useShown } from "../../bench/context";
import { type Lens, useLens } from "../../lens/lens";
import { useScreen } from "../../shell/store";
import { type Dot, dotAt, drawDots, drawSelected, type Ink, linksOf } from "./map-drawing";

/** Where the neutrals end that stand at the left of the field, as a share of its width. */
export const NEUTRALS = 0.09;

interface Props {
  label: string;
  size: { width: number; height: number };
  dots: Dot[];
  within: number;
  round?: boolean;
  axes: [string, string];
}

/** The lines that dots are seen against. */
function Frame({ size: { width, height }, round }: Pick<Props, "size" | "round">) {
  const shares = round ? [0.25, 0.5, 0.75, 1] : [0, 0.25, 0.5, 0.75, 1];
  return (
    <svg aria-hidden="true" className="absolute inset-0 overflow-visible" width={width} height={height}>
      {shares.map((share) =>
        round ? (
          <circle
            key={share}
            cx={width / 2}
            cy={height / 2}
            r={(width / 2) * share}
            fill="none"
            stroke="var(--line)"
          />
        ) : (
          <line key={share} x1={0} x2={width} y1={height * share} y2={height * share} stroke="var(--line)" />
        ),
      )}
      {round && <line x1={0} x2={width} y1={height / 2} y2={height / 2} stroke="var(--line)" />}
      <line
        y1={0}
        y2={height}
        x1={round ? width / 2 : width * NEUTRALS}
        x2={round ? width / 2 : width * NEUTRALS}
        stroke="var(--line)"
      />
    </svg>
  );
}

/** Room around the panel for dots that lie at its edge. */
const OVER = 14;

/** A pen for a cleared canvas around a panel, that counts from the panel's corner. */
function penOf(canvas: HTMLCanvasElement | null, { width, height }: Props["size"]) {
  const pen = canvas?.getContext("2d");
  if (!canvas || !pen) return null;
  const ratio = window.devicePixelRatio || 1;
  canvas.width = Math.round((width + 2 * OVER) * ratio);
  canvas.height = Math.round((height + 2 * OVER) * ratio);
  pen.setTransform(ratio, 0, 0, ratio, OVER * ratio, OVER * ratio);
  return pen;
}

function inkOf(canvas: HTMLCanvasElement, lens: Lens): Ink {
  const page = getComputedStyle(canvas);
  return {
    ground: page.getPropertyValue("--ground"),
    ink: page.getPropertyValue("--ink"),
    css: lens.css,
    rgb: lens.rgb,
  };
}

/**
 * One drawing of the map. Thousands of dots are one canvas: what is under the pointer stands on it as `data-swatch`, as if it were an
 * element of its own.
 */
export function Panel({ label, size, dots, within, round = false, axes }: Props) {
  const lens = useLens();
  const shown = useShown();
  const selection = useScreen((screen) => screen.selection);
  const surround = useScreen((screen) => screen.surround);
  const canvas = useRef<HTMLCanvasElement>(null);
  const above = useRef<HTMLCanvasElement>(null);
  const { width, height } = size;
  const links = useMemo(
    () => linksOf(dots, shown, within, round ? null : { left: width * NEUTRALS, right: width }),
    [dots, shown, within, round, width],
  );
  // biome-ignore lint/correctness/useExhaustiveDependencies: the surround is what the colors of the page come from
  useLayoutEffect(() => {
    const pen = penOf(canvas.current, size);
    if (pen) drawDots(pen, dots, links, inkOf(pen.canvas, lens));
  }, [dots, links, lens, surround, size]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: as above
  useLayoutEffect(() => {
    const pen = penOf(above.current, size);
    if (pen) drawSelected(pen, dots, selection, inkOf(pen.canvas, lens));
  }, [dots, selection, lens, surround, size]);
  const point = (event: React.PointerEvent) => {
    const target = canvas.current;
    if (!target) return;
    const { left, top } = target.getBoundingClientRect();
    const found = dotAt(dots, selection, event.clientX - left - OVER, event.clientY - top - OVER);
    if (found) {
      target.dataset.swatch = found.swatch.id;
      target.title = `${found.index} · ${found.swatch.name} · ${found.swatch.hex}`;
    } else {
      delete target.dataset.swatch;
      target.title = "";
    }
  };
  const place = { left: -OVER, top: -OVER, width: width + 2 * OVER, height: height + 2 * OVER };
  return (
    <figure className="m-0 min-w-0">
      <figcaption className="mb-1 text-small text-quiet">{label}</figcaption>
      <div className="relative" style={{ width, height }} data-panel={round ? "disc" : "field"}>
        <Frame size={size} round={round} />
        <canvas ref={above} className="pointer-events-none absolute z-10" style={place} />
        <canvas
          ref={canvas}
          className="absolute"
          style={place}
          onPointerDownCapture={point}
          onPointerMoveCapture={point}
        />
        <span className="absolute -bottom-5 left-0 text-mini text-quiet">{axes[0]}</span>
        <span className="absolute -bottom-5 right-0 text-mini text-quiet">{axes[1]}</span>
      </div>
    </figure>
  );
}
