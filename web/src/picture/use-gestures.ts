import { type PointerEvent, type RefObject, useEffect, useRef, useState } from "react";
import { type DragTool, useDragTool } from "./drag-tool";
import { type Point, rectangle } from "./regions";
import { type View, zoomAt } from "./view";

const STILL_PX = 4;

/** What a click or a drag reached, in pixels of the picture. */
export type Reached = { kind: "place"; at: Point } | { kind: "area"; outline: Point[] };

export interface Modifiers {
  shiftKey: boolean;
  ctrlKey: boolean;
  metaKey: boolean;
}

type Grip =
  | { kind: "divide" }
  | { kind: "pan"; x: number; y: number; view: View; isClick: boolean; at: Point }
  | { kind: "area"; x: number; y: number; isClick: boolean; path: Point[] }
  | { kind: "pinch"; apart: number; view: View; x: number; y: number };

interface Options {
  area: RefObject<HTMLDivElement | null>;
  view: View | null;
  setView: (view: View) => void;
  setDivider: (share: number) => void;
  /** The place of the picture under the pointer, which may lie outside it. */
  placeOf: (event: { clientX: number; clientY: number }) => Point | null;
  /** Where there is nothing to reach, every drag moves the picture. */
  onReach?: (reached: Reached, modifiers: Modifiers) => void;
}

/** Pointers over a picture: click, drag, the middle button, two fingers. What is being drawn stands in `drawn`. */
export function useGestures({ area, view, setView, setDivider, placeOf, onReach }: Options) {
  const tool = useDragTool((state) => state.tool);
  const grip = useRef<Grip | null>(null);
  const fingers = useRef(new Map<number, { x: number; y: number }>());
  const [drawn, setDrawn] = useState<Point[] | null>(null);
  const letGo = () => {
    grip.current = null;
    setDrawn(null);
  };
  // Escape calls a drag off, and is used up by that.
  const isDrawing = drawn !== null;
  useEffect(() => {
    if (!isDrawing) return;
    const callOff = (event: KeyboardEvent) => {
      if (event.key !== "Escape") return;
      event.stopPropagation();
      event.preventDefault();
      grip.current = null;
      setDrawn(null);
    };
    window.addEventListener("keydown", callOff, true);
    return () => window.removeEventListener("keydown", callOff, true);
  }, [isDrawing]);

  const twoFingers = () => {
    const [one, two] = [...fingers.current.values()];
    const rect = area.current?.getBoundingClientRect();
    if (!one || !two || !rect) return null;
    return {
      apart: Math.max(Math.hypot(one.x - two.x, one.y - two.y), 1),
      x: (one.x + two.x) / 2 - rect.left,
      y: (one.y + two.y) / 2 - rect.top,
    };
  };
  const down = (event: PointerEvent) => {
    if (!view || (event.button !== 0 && event.button !== 1)) return;
    event.currentTarget.setPointerCapture(event.pointerId);
    if (event.pointerType === "touch")
      fingers.current.set(event.pointerId, { x: event.clientX, y: event.clientY });
    const pinch = twoFingers();
    const at = placeOf(event) ?? { x: -1, y: -1 };
    const from = { x: event.clientX, y: event.clientY, isClick: event.button === 0 };
    if (pinch) {
      setDrawn(null);
      grip.current = { kind: "pinch", ...pinch, view };
    } else if ((event.target as HTMLElement).closest("[data-divider]")) grip.current = { kind: "divide" };
    else if (event.button === 1 || tool === "hand" || !onReach)
      grip.current = { kind: "pan", ...from, view, at };
    else grip.current = { kind: "area", ...from, path: [at] };
    // The middle button would begin to scroll the page.
    if (event.button === 1) event.preventDefault();
  };
  /** Whether the pointer is at something; otherwise it only goes over the picture. */
  const move = (event: PointerEvent): boolean => {
    const held = grip.current;
    if (fingers.current.has(event.pointerId))
      fingers.current.set(event.pointerId, { x: event.clientX, y: event.clientY });
    if (!held) return false;
    const rect = area.current?.getBoundingClientRect() ?? new DOMRect();
    if (held.kind === "divide") {
      setDivider(Math.min(1, Math.max(0, (event.clientX - rect.left) / rect.width)));
    } else if (held.kind === "pinch") {
      const now = twoFingers();
      if (!now) return true;
      const zoomed = zoomAt(held.view, held.view.zoom * (now.apart / held.apart), held.x, held.y);
      setView({ ...zoomed, x: zoomed.x + now.x - held.x, y: zoomed.y + now.y - held.y });
    } else {
      if (Math.hypot(event.clientX - held.x, event.clientY - held.y) > STILL_PX) held.isClick = false;
      if (held.isClick) return true;
      if (held.kind === "pan") {
        setView({
          ...held.view,
          x: held.view.x + event.clientX - held.x,
          y: held.view.y + event.clientY - held.y,
        });
      } else {
        const at = placeOf(event);
        if (at) held.path.push(at);
        setDrawn(outlineOf(held.path, tool));
      }
    }
    return true;
  };
  const up = (event: PointerEvent) => {
    const held = grip.current;
    fingers.current.delete(event.pointerId);
    letGo();
    if (!held || !onReach || held.kind === "divide" || held.kind === "pinch") return;
    if (held.isClick) {
      const at = held.kind === "pan" ? held.at : held.path[0];
      if (at) onReach({ kind: "place", at }, event);
    } else if (held.kind === "area") {
      const at = placeOf(event);
      onReach({ kind: "area", outline: outlineOf(at ? [...held.path, at] : held.path, tool) }, event);
    }
  };
  const cancel = (event: PointerEvent) => {
    fingers.current.delete(event.pointerId);
    letGo();
  };
  return { down, move, up, cancel, drawn };
}

function outlineOf(path: Point[], tool: DragTool): Point[] {
  const from = path[0];
  const to = path.at(-1);
  return tool === "lasso" || !from || !to ? path.slice() : rectangle(from, to);
}
