import { useLayoutEffect, useRef } from "react";
import { type DragTool, useDragTool } from "./drag-tool";
import { type Indexed, outlineOnScreen, type Point } from "./regions";
import type { View } from "./view";

/** Selected swatches outlined over the picture: black beside white, so that it is seen on any color. */
export function SelectedOutline({
  source,
  selected,
  view,
  size,
}: {
  source: Indexed;
  selected: ReadonlySet<string>;
  view: View;
  size: { width: number; height: number };
}) {
  const target = useRef<HTMLCanvasElement>(null);
  const drawnFor = useRef<unknown[]>([]);
  useLayoutEffect(() => {
    const canvas = target.current;
    if (!canvas || !size.width || !size.height) return;
    const isMoved = [source, view, size].some((part, place) => part !== drawnFor.current[place]);
    let later: ReturnType<typeof setTimeout>;
    const draw = () => {
      drawnFor.current = [source, view, size];
      const { width, height } = size;
      canvas.width = width;
      canvas.height = height;
      const pen = canvas.getContext("2d");
      if (!pen) return;
      const edges = outlineOnScreen(source, selected, view, size);
      const image = pen.createImageData(width, height);
      const words = new Uint32Array(image.data.buffer);
      let length = 0;
      for (let place = edges.indexOf(1); place >= 0; place = edges.indexOf(1, place + 1)) {
        length++;
        words[place] = 0xff000000;
        // The light beside the dark lies outside of what is outlined.
        for (const beside of [place - 1, place + 1, place - width, place + width])
          if (beside >= 0 && beside < words.length && !edges[beside] && !words[beside])
            words[beside] = 0xd0ffffff;
      }
      pen.putImageData(image, 0, 0);
      canvas.dataset.edge = String(length);
    };
    // Drawn once for a frame, however many changes came before it: with the picture where that has moved, and else behind the frame
    // in which a press is seen in the strip.
    const frame = requestAnimationFrame(() => {
      if (isMoved) draw();
      else later = setTimeout(draw);
    });
    return () => {
      cancelAnimationFrame(frame);
      clearTimeout(later);
    };
  }, [source, selected, view, size]);
  return (
    <canvas ref={target} data-testid="outline" className="pointer-events-none absolute inset-0 size-full" />
  );
}

/** The rectangle or lasso while it is drawn, and how many swatches it would select. */
export function DrawnRegion({ outline, view, count }: { outline: Point[]; view: View; count: number }) {
  const points = outline.map((point) => `${view.x + point.x * view.zoom},${view.y + point.y * view.zoom}`);
  const last = outline.at(outline.length === 4 ? 2 : -1);
  const label = `${count} ${count === 1 ? "swatch" : "swatches"}`;
  return (
    <svg
      role="img"
      aria-label={`Area with ${label}`}
      className="pointer-events-none absolute inset-0 z-10 size-full"
    >
      <polygon points={points.join(" ")} fill="#ffffff22" stroke="#fff" strokeWidth={3} fillRule="evenodd" />
      <polygon points={points.join(" ")} fill="none" stroke="#000" strokeWidth={1.2} strokeDasharray="5 3" />
      {last && (
        <foreignObject
          x={view.x + last.x * view.zoom + 10}
          y={view.y + last.y * view.zoom + 10}
          width={110}
          height={26}
        >
          <span className="inline-block rounded-full bg-black px-2 py-1 text-caption leading-none font-semibold text-white">
            {label}
          </span>
        </foreignObject>
      )}
    </svg>
  );
}

const TOOLS: { id: DragTool; label: string; path: string }[] = [
  { id: "rectangle", label: "A drag selects the swatches in a rectangle", path: "M2.5 3.5h11v9h-11z" },
  {
    id: "lasso",
    label: "A drag selects the swatches in a free outline",
    path: "M3 8.5c-1-3 2-6 5.5-5.5S14 6 12.5 9.5 6 13 5 11.5 6 9 7.5 10",
  },
  {
    id: "hand",
    label: "A drag moves the picture; the middle button always does",
    path: "M8 1.5v13M1.5 8h13M6 3.5l2-2 2 2M6 12.5l2 2 2-2M3.5 6l-2 2 2 2M12.5 6l2 2-2 2",
  },
];

/** What a drag does, and whether selected swatches are outlined. */
export function DragTools() {
  const { tool, setTool, isOutlined, setOutlined } = useDragTool();
  const key = "grid min-h-7 min-w-7 place-items-center -outline-offset-2";
  return (
    <fieldset
      aria-label="What a drag does"
      className="m-0 flex overflow-hidden rounded-md border border-line bg-panel p-0"
      onPointerDown={(event) => event.stopPropagation()}
      onDoubleClick={(event) => event.stopPropagation()}
    >
      {TOOLS.map((entry) => (
        <button
          key={entry.id}
          type="button"
          aria-label={entry.label}
          title={entry.label}
          aria-pressed={tool === entry.id}
          className={`${key} ${tool === entry.id ? "bg-ink text-ground" : "hover:bg-raised"}`}
          onClick={() => setTool(entry.id)}
        >
          <svg
            aria-hidden="true"
            viewBox="0 0 16 16"
            className="size-4"
            fill="none"
            stroke="currentColor"
            strokeWidth={1.4}
            strokeDasharray={entry.id === "hand" ? undefined : "2.6 1.4"}
          >
            <path d={entry.path} />
          </svg>
        </button>
      ))}
      <button
        type="button"
        aria-label="Outline the selected swatches"
        title="Outline the selected swatches in the picture (key O)"
        aria-pressed={isOutlined}
        className={`${key} border-l border-line hover:bg-raised`}
        onClick={() => setOutlined(!isOutlined)}
      >
        <svg aria-hidden="true" viewBox="0 0 16 16" className="size-4" fill="none" stroke="currentColor">
          <circle cx={8} cy={8} r={5.2} strokeWidth={isOutlined ? 2.4 : 1} />
        </svg>
      </button>
    </fieldset>
  );
}
