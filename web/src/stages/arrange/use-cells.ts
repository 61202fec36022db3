import { type PointerEvent, useRef, useState } from "react";
import type { Swatch } from "../../api/types";
import { STILL_PX } from "../../bench/moving";
import { pressSwatch } from "../../bench/select";
import type { Modifiers } from "../../picture/use-gestures";
import { useScreenParts } from "../../shell/store";

export interface Box {
  left: number;
  top: number;
  width: number;
  height: number;
}

interface Held {
  kind: "marquee" | "move";
  id: string | null;
  x: number;
  y: number;
  moved: boolean;
  before: string[];
}

interface Options {
  shown: Swatch[];
  /** Whether a drag that begins on a cell carries it, as `Moving` around the box does; else it selects as well. */
  movable?: boolean;
  /** The swatches that a rectangle touches, in the window's pixels, where the cells are drawn and not elements. */
  within?: (area: Box) => string[];
}

/**
 * Selecting by pointer, for any box whose cells carry `data-swatch` and `data-index`: click, with Shift a
 * range, with Ctrl one more; a drag that begins beside the cells selects what it touches, one that begins on a cell
 * carries it where `Moving` stands around the box.
 */
export function useCells({ shown, movable = false, within }: Options) {
  const { selected, selection, select, hover } = useScreenParts("selected", "selection", "select", "hover");
  const box = useRef<HTMLDivElement>(null);
  const held = useRef<Held | null>(null);
  const [marquee, setMarquee] = useState<Box | null>(null);
  const touched = (area: Box) =>
    [...(box.current?.querySelectorAll<HTMLElement>("[data-swatch]") ?? [])]
      .filter((cell) => {
        const rect = cell.getBoundingClientRect();
        return (
          rect.left < area.left + area.width &&
          rect.right > area.left &&
          rect.top < area.top + area.height &&
          rect.bottom > area.top
        );
      })
      .map((cell) => cell.dataset.swatch ?? "");
  const at = (event: PointerEvent) =>
    (event.target as HTMLElement).closest<HTMLElement>("[data-swatch]")?.dataset.swatch ?? null;

  const pick = (id: string, event: Modifiers) => pressSwatch(shown, id, event);

  const down = (event: PointerEvent) => {
    if (event.button !== 0 || (event.target as HTMLElement).closest("input, button:not([data-swatch])"))
      return;
    const id = at(event);
    const adds = event.shiftKey || event.ctrlKey || event.metaKey;
    held.current = {
      kind: id && movable ? "move" : "marquee",
      id,
      x: event.clientX,
      y: event.clientY,
      moved: false,
      before: adds ? selected : [],
    };
    if (held.current.kind === "marquee") box.current?.setPointerCapture(event.pointerId);
    if (id && (!selection.has(id) || adds)) pick(id, event);
  };
  const move = (event: PointerEvent) => {
    const state = held.current;
    if (!state) {
      hover(at(event));
      return;
    }
    if (!state.moved && Math.hypot(event.clientX - state.x, event.clientY - state.y) < STILL_PX) return;
    state.moved = true;
    if (state.kind !== "marquee") return;
    const area = {
      left: Math.min(state.x, event.clientX),
      top: Math.min(state.y, event.clientY),
      width: Math.abs(event.clientX - state.x),
      height: Math.abs(event.clientY - state.y),
    };
    setMarquee(area);
    const ids = (within ?? touched)(area);
    select([...new Set([...state.before, ...ids])]);
  };
  const up = (event: PointerEvent) => {
    const state = held.current;
    held.current = null;
    setMarquee(null);
    if (!state || state.moved || event.shiftKey || event.ctrlKey || event.metaKey) return;
    select(state.id ? [state.id] : [], state.id);
  };
  const cancel = () => {
    held.current = null;
    setMarquee(null);
  };
  return {
    box,
    marquee,
    pick,
    handlers: {
      onPointerDown: down,
      onPointerMove: move,
      onPointerUp: up,
      onPointerCancel: cancel,
      onPointerLeave: () => {
        if (held.current?.kind === "move") held.current = null;
        if (!held.current) hover(null);
      },
    },
  };
}
