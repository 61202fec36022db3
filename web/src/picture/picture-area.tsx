import {
  type KeyboardEvent,
  useCallback,
  useEffect,
  useLayoutEffect,
  useMemo,
  useRef,
  useState,
} from "react";
import { useHotkeys } from "react-hotkeys-hook";
import { useScreen } from "../shell/store";
import { isForThePage } from "../ui/keys";
import { useDragTool } from "./drag-tool";
import { draw } from "./draw";
import type { Copies } from "./large";
import { DragTools, DrawnRegion, SelectedOutline } from "./region-layer";
import { countWithin, type Indexed, type Point, swatchAt } from "./regions";
import { useCopies } from "./use-copies";
import { type Modifiers, useGestures } from "./use-gestures";
import { fitView, type View, zoomAt } from "./view";
import { ZoomBar } from "./zoom-bar";

/** What can be selected in the picture: its swatches, by where they paint. */
export interface Regions {
  source: Indexed;
  /** Whose paint is outlined. */
  outlined: ReadonlySet<string>;
  /** The swatch that was clicked, or null where there is none. */
  onPlace: (id: string | null, modifiers: Modifiers) => void;
  /** Pixels that each swatch paints in the area that was drawn. */
  onArea: (counts: Map<string, number>, modifiers: Modifiers) => void;
  isSelected: (id: string) => boolean;
  /** How many swatches that area would select. */
  countOf: (counts: Map<string, number>) => number;
}

interface Props {
  name: string;
  width: number;
  height: number;
  original: CanvasImageSource | null;
  /** Change whenever a side was painted anew. */
  originalVersion?: number;
  /** A side smaller and smaller, the whole first, where it is large: the one is drawn that is fine enough. */
  originalCopies?: Copies | undefined;
  result: CanvasImageSource | null;
  resultCopies?: Copies | undefined;
  version: number;
  /** What stands left and right of the divider. */
  sides: readonly [string, string];
  /** Under one divider, or each in a pane of its own. */
  mode?: CompareMode;
  /** The pixel under the pointer, or null. */
  onPixel?: (pixel: { x: number; y: number } | null) => void;
  /** Stands in the upper left corner. */
  corner?: React.ReactNode;
  /** Where swatches can be selected by a click or a drag. */
  regions?: Regions | null;
  /** Drawn over the picture, given where it lies; while it takes the pointer, the picture does not pan. */
  children?: (view: View) => React.ReactNode;
}

const NO_COPIES: Copies = [];
const NO_KEYS: Modifiers = { shiftKey: false, ctrlKey: false, metaKey: false };

export type CompareMode = "divider" | "panes";

/** Keys of the picture, by what they type: "+" stands behind Shift on many keyboards. */
const KEYS = {
  useKey: true,
  ignoreModifiers: true,
  splitKey: " ",
  enableOnFormTags: true,
  ignoreEventWhen: (event: globalThis.KeyboardEvent) =>
    event.ctrlKey || event.metaKey || !isForThePage(event),
} as const;

/** Original and result under one movable divider; one view, so that both zoom and pan in step. */
export function PictureArea({
  name,
  width,
  height,
  original,
  originalVersion = 0,
  originalCopies = NO_COPIES,
  result,
  resultCopies = NO_COPIES,
  version,
  sides,
  mode = "divider",
  onPixel,
  corner,
  regions = null,
  children,
}: Props) {
  const area = useRef<HTMLDivElement>(null);
  const left = useRef<HTMLCanvasElement>(null);
  const right = useRef<HTMLCanvasElement>(null);
  const [size, setSize] = useState({ width: 0, height: 0 });
  /** How the picture was zoomed and panned by hand; null while it fits. */
  const [moved, setMoved] = useState<View | null>(null);
  const [divider, setDivider] = useState(0.5);
  const isOutlined = useDragTool((state) => state.isOutlined);

  useLayoutEffect(() => {
    const box = area.current;
    if (!box) return;
    const observer = new ResizeObserver(() => setSize({ width: box.clientWidth, height: box.clientHeight }));
    observer.observe(box);
    return () => observer.disconnect();
  }, []);
  const [flicker, setFlicker] = useState(false);
  const isPaned = mode === "panes" && result !== null;
  const paneWidth = isPaned ? size.width / 2 : size.width;
  const fitted = useMemo(
    () => (paneWidth ? fitView(width, height, paneWidth, size.height) : null),
    [paneWidth, size.height, width, height],
  );
  const view = moved ?? fitted;
  const whole = useRef(fitted);
  whole.current = fitted;
  const zoomBy = useCallback((change: (zoom: number) => number, x: number, y: number) => {
    setMoved((before) => {
      const from = before ?? whole.current;
      return from && zoomAt(from, change(from.zoom), x, y);
    });
  }, []);

  const split = flicker ? size.width : Math.round((isPaned ? 0.5 : divider) * size.width);
  const rightView = view && isPaned ? { ...view, x: view.x + paneWidth } : view;
  const asOthers = useScreen((screen) => screen.asOthers);
  const shrunken = useCopies(original);
  const ofOriginal = originalCopies.length ? originalCopies : shrunken;
  // Each side has a canvas of its own, so that a new preview does not scale the original once more.
  useLayoutEffect(() => {
    const to = result ? split : size.width;
    const at = { size, view, width, height, from: 0, to, copies: ofOriginal };
    draw(left.current, original, { ...at, version: originalVersion, asOthers });
  }, [view, size, split, original, ofOriginal, originalVersion, width, height, result, asOthers]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the version says that a side was painted anew
  useLayoutEffect(() => {
    const at = { size, view: rightView, width, height, from: split, to: size.width, copies: resultCopies };
    draw(right.current, result, { ...at, version, asOthers });
  }, [view, size, split, isPaned, result, resultCopies, version, width, height, asOthers]);

  useEffect(() => {
    const box = area.current;
    if (!box) return;
    const wheel = (event: WheelEvent) => {
      event.preventDefault();
      const rect = box.getBoundingClientRect();
      const by = 1.0016 ** -event.deltaY;
      zoomBy((zoom) => zoom * by, event.clientX - rect.left, event.clientY - rect.top);
    };
    box.addEventListener("wheel", wheel, { passive: false });
    return () => box.removeEventListener("wheel", wheel);
  }, [zoomBy]);
  useHotkeys("f", () => setFlicker(true), KEYS);
  useHotkeys("f", () => setFlicker(false), {
    ...KEYS,
    keydown: false,
    keyup: true,
    ignoreEventWhen: undefined,
  });
  const zoomInMiddle = (by: number) => zoomBy((zoom) => zoom * by, size.width / 2, size.height / 2);
  useHotkeys("0", () => setMoved(null), KEYS);
  useHotkeys(["+", "="], () => zoomInMiddle(1.5), KEYS, [size]);
  useHotkeys("-", () => zoomInMiddle(1 / 1.5), KEYS, [size]);

  const placeOf = (event: { clientX: number; clientY: number }): Point | null => {
    const rect = area.current?.getBoundingClientRect();
    if (!rect || !view) return null;
    const across = event.clientX - rect.left;
    const pane = isPaned && across >= paneWidth ? paneWidth : 0;
    return { x: (across - pane - view.x) / view.zoom, y: (event.clientY - rect.top - view.y) / view.zoom };
  };
  // A preview may be smaller than its picture: what was drawn over the picture is looked up in the preview.
  const inSource = (point: Point): Point => ({
    x: (point.x * (regions?.source.width ?? width)) / width,
    y: (point.y * (regions?.source.height ?? height)) / height,
  });
  const gestures = useGestures({
    area,
    view,
    setView: setMoved,
    setDivider,
    placeOf,
    onReach: regions
      ? (reached, modifiers) => {
          if (reached.kind === "place")
            regions.onPlace(swatchAt(regions.source, inSource(reached.at)), modifiers);
          else regions.onArea(countWithin(regions.source, reached.outline.map(inSource)), modifiers);
        }
      : undefined,
  });
  const drawn =
    gestures.drawn && regions && view
      ? {
          outline: gestures.drawn,
          count: regions.countOf(countWithin(regions.source, gestures.drawn.map(inSource))),
        }
      : null;
  const pixelAt = (event: { clientX: number; clientY: number }) => {
    const place = placeOf(event);
    const x = Math.floor(place?.x ?? -1);
    const y = Math.floor(place?.y ?? -1);
    return x >= 0 && y >= 0 && x < width && y < height ? { x, y } : null;
  };
  const outlineZoom = view && regions && (view.zoom * width) / regions.source.width;
  // The same as long as it says the same: an outline is not looked for anew while a color is dragged.
  const outlineView = useMemo(
    () =>
      view && outlineZoom ? { zoom: outlineZoom, x: view.x + (isPaned ? paneWidth : 0), y: view.y } : null,
    [view, outlineZoom, isPaned, paneWidth],
  );
  const selects = useDragTool((state) => state.tool) !== "hand" && regions !== null;
  const nudge = (event: KeyboardEvent) => {
    const step = { ArrowLeft: -0.02, ArrowRight: 0.02, Home: -1, End: 1 }[event.key];
    if (!step) return;
    event.preventDefault();
    event.stopPropagation();
    setDivider((before) => Math.min(1, Math.max(0, before + step)));
  };
  return (
    <div
      ref={area}
      role="application"
      aria-label={`${name}: ${sides[0]} and ${sides[1]}. ${regions ? "Click or drag to select swatches" : "Drag to pan"}, wheel to zoom.`}
      className={`relative min-h-0 grow touch-none overflow-hidden rounded-sm bg-well ${selects ? "cursor-crosshair" : "cursor-grab active:cursor-grabbing"}`}
      onPointerDown={gestures.down}
      onPointerMove={(event) => {
        if (!gestures.move(event)) onPixel?.(pixelAt(event));
      }}
      onPointerUp={gestures.up}
      onPointerCancel={gestures.cancel}
      onPointerLeave={() => onPixel?.(null)}
      onContextMenu={(event) => {
        // What is pressed is what the menu is about.
        const at = regions && placeOf(event);
        const id = at && swatchAt(regions.source, inSource(at));
        if (id && !regions.isSelected(id)) regions.onPlace(id, NO_KEYS);
      }}
      data-picture={regions ? "" : undefined}
      onDoubleClick={() => setMoved(null)}
    >
      <canvas ref={left} className="absolute inset-0 size-full" />
      <canvas ref={right} data-testid="picture" className="absolute inset-0 size-full" />
      {regions && outlineView && isOutlined && regions.outlined.size > 0 && (
        <SelectedOutline source={regions.source} selected={regions.outlined} view={outlineView} size={size} />
      )}
      {view && children?.(view)}
      {view && drawn && <DrawnRegion {...drawn} view={view} />}
      {isPaned && (
        <>
          <span className="pointer-events-none absolute inset-y-0 left-1/2 w-[2px] -translate-x-1/2 bg-ground" />
          {sides.map((side, place) => (
            <span
              key={side}
              className={`pointer-events-none absolute bottom-4 -translate-x-1/2 rounded-full bg-black px-3 py-1 text-caption leading-none font-semibold text-white ${place === 0 ? "left-1/4" : "left-3/4"}`}
            >
              {flicker ? sides[0] : side}
            </span>
          ))}
        </>
      )}
      {result && !isPaned && (
        <div
          data-divider
          role="slider"
          tabIndex={0}
          aria-label={`Divider between ${sides[0]} and result`}
          aria-valuenow={Math.round(divider * 100)}
          aria-valuemin={0}
          aria-valuemax={100}
          className="absolute inset-y-0 z-10 w-6 -translate-x-1/2 cursor-ew-resize pointer-coarse:w-11 outline-none [&:focus-visible>span]:outline-2 [&:focus-visible>span]:outline-ink"
          style={{ left: `${divider * 100}%` }}
          onKeyDown={nudge}
        >
          <span className="absolute inset-y-0 left-1/2 w-[2px] -translate-x-1/2 bg-black shadow-[0_0_0_1.5px_#fff]" />
          <span
            className={`absolute bottom-4 rounded-full bg-black px-3 py-1 text-caption leading-none font-semibold whitespace-nowrap text-white ${
              divider < 0.15 ? "left-0" : divider > 0.85 ? "right-0" : "left-1/2 -translate-x-1/2"
            }`}
          >
            {sides[0]} ◂▸ {sides[1]}
          </span>
        </div>
      )}
      {corner && (
        <div className="absolute top-3 left-3 z-10" onPointerDown={(event) => event.stopPropagation()}>
          {corner}
        </div>
      )}
      <div className="absolute top-3 right-3 z-10 flex items-start gap-2 text-small">
        {regions && <DragTools />}
        <ZoomBar
          zoom={view?.zoom ?? null}
          isFit={!moved}
          onZoom={(zoom) => zoomBy(() => zoom, size.width / 2, size.height / 2)}
          onStep={zoomInMiddle}
          onFit={() => setMoved(null)}
        />
      </div>
    </div>
  );
}
