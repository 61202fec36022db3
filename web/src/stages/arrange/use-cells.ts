import { type PointerEvent, useRef, useState } from "react";
import type { Swatch } from "../../api/types";
import { useScreen, useScreenParts } from "../../shell/store";

const STILL_PX = 5;

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
  gap: number;
  before: string[];
}

interface Options {
  shown: Swatch[];
  /** Where moving by drag makes sense: called with the gap that the selected were dropped at. */
  onMove?: (ids: string[], gap: number) => void;
}

/**
 * Selecting and moving by pointer, for any box whose cells carry `data-swatch` and `data-index`: click, with Shift a
 * range, with Ctrl one more; a drag that begins beside the cells selects what it touches, one that begins on a cell moves.
 */
export function useCells({ shown, onMove }: Options) {
  const { selected, selection, anchor, select, hover } = useScreenParts(
    "selected",
    "selection",
    "anchor",
    "select",
    "hover",
  );
  const box = useRef<HTMLDivElement>(null);
  const held = useRef<Held | null>(null);
  const [marquee, setMarquee] = useState<Box | null>(null);
  const [gap, setGap] = useState<Box | null>(null);
  const cells = () => [...(box.current?.querySelectorAll<HTMLElement>("[data-swatch]") ?? [])];
  const at = (event: PointerEvent) =>
    (event.target as HTMLElement).closest<HTMLElement>("[data-swatch]")?.dataset.swatch ?? null;

  const pick = (id: string, event: { shiftKey: boolean; ctrlKey: boolean; metaKey: boolean }) => {
    if (event.shiftKey) {
      const places = [anchor ?? id, id].map((wanted) => shown.findIndex((swatch) => swatch.id === wanted));
      const range = shown.slice(Math.min(...places), Math.max(...places) + 1);
      select(
        range.map((swatch) => swatch.id),
        anchor,
      );
    } else if (event.ctrlKey || event.metaKey) {
      select(selection.has(id) ? selected.filter((other) => other !== id) : [...selected, id], id);
    } else select([id], id);
  };

  const down = (event: PointerEvent) => {
    if (event.button !== 0 || (event.target as HTMLElement).closest("input, button:not([data-swatch])"))
      return;
    const id = at(event);
    const adds = event.shiftKey || event.ctrlKey || event.metaKey;
    held.current = {
      kind: id && onMove ? "move" : "marquee",
      id,
      x: event.clientX,
      y: event.clientY,
      moved: false,
      gap: -1,
      before: adds ? selected : [],
    };
    box.current?.setPointerCapture(event.pointerId);
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
    if (state.kind === "marquee") {
      const area = {
        left: Math.min(state.x, event.clientX),
        top: Math.min(state.y, event.clientY),
        width: Math.abs(event.clientX - state.x),
        height: Math.abs(event.clientY - state.y),
      };
      setMarquee(area);
      const touched = cells().filter((cell) => {
        const rect = cell.getBoundingClientRect();
        return (
          rect.left < area.left + area.width &&
          rect.right > area.left &&
          rect.top < area.top + area.height &&
          rect.bottom > area.top
        );
      });
      const ids = touched.map((cell) => cell.dataset.swatch ?? "");
      select([...new Set([...state.before, ...ids])]);
      return;
    }
    let best: { far: number; gap: number; box: Box } | null = null;
    for (const cell of cells()) {
      const rect = cell.getBoundingClientRect();
      const off =
        event.clientY < rect.top ? rect.top - event.clientY : Math.max(0, event.clientY - rect.bottom);
      for (const [side, x] of [rect.left, rect.right].entries()) {
        const far = Math.abs(event.clientX - x) + off * 20;
        if (!best || far < best.far)
          best = {
            far,
            gap: Number(cell.dataset.index) + side,
            box: { left: x, top: rect.top, width: 3, height: rect.height },
          };
      }
    }
    if (best) {
      state.gap = best.gap;
      setGap(best.box);
    }
  };
  const up = (event: PointerEvent) => {
    const state = held.current;
    held.current = null;
    setMarquee(null);
    setGap(null);
    if (!state) return;
    const plain = !event.shiftKey && !event.ctrlKey && !event.metaKey;
    if (!state.moved) {
      if (plain) select(state.id ? [state.id] : [], state.id);
      return;
    }
    if (state.kind === "move" && state.gap >= 0) {
      const now = useScreen.getState().selected;
      const ids = shown.filter((swatch) => now.includes(swatch.id)).map((swatch) => swatch.id);
      onMove?.(ids, state.gap);
    }
  };
  const cancel = () => {
    held.current = null;
    setMarquee(null);
    setGap(null);
  };
  return {
    box,
    marquee,
    gap,
    pick,
    handlers: {
      onPointerDown: down,
      onPointerMove: move,
      onPointerUp: up,
      onPointerCancel: cancel,
      onPointerLeave: () => !held.current && hover(null),
    },
  };
}
