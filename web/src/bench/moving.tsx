import {
  type Active,
  type Collision,
  type CollisionDetection,
  DndContext,
  type DragEndEvent,
  type DragMoveEvent,
  DragOverlay,
  type KeyboardCoordinateGetter,
  KeyboardSensor,
  type Over,
  PointerSensor,
  useDraggable,
  useDroppable,
  useSensor,
  useSensors,
} from "@dnd-kit/core";
import { useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useMemo, useState } from "react";
import { createPortal } from "react-dom";
import type { Swatch } from "../api/types";
import { useLens } from "../lens/lens";
import { useScreen } from "../shell/store";
import { CardTray, cardAt, takeToCard } from "./card-tray";
import { useBench } from "./context";

/** How far a pointer goes before it drags, in pixels. */
export const STILL_PX = 5;
const MOST_CARRIED = 6;
/** Leaving a row counts that much more than leaving a column. */
const OFF_ROW = 20;

interface Place {
  index: number;
  isEmpty: boolean;
}

const placeOf = (entry: { data: { current?: unknown } }) => entry.data.current as Place | undefined;

/** A gap between places, and where it is drawn. */
export interface Gap {
  at: number;
  x: number;
  top: number;
  height: number;
}

interface Rect {
  left: number;
  right: number;
  top: number;
  bottom: number;
}

/** How far a point is from the left (0) or right (1) edge of a cell. */
export function distance(point: { x: number; y: number }, rect: Rect, side: 0 | 1): number {
  const off = point.y < rect.top ? rect.top - point.y : Math.max(0, point.y - rect.bottom);
  return Math.abs(point.x - (side ? rect.right : rect.left)) + off * OFF_ROW;
}

const within = (point: { x: number; y: number }, rect: Rect) =>
  point.x >= rect.left && point.x <= rect.right && point.y >= rect.top && point.y <= rect.bottom;

/** The nearest gap; of a cell that is moved by keys the side that lies on the way; an empty place is taken itself. */
const nearestGap: CollisionDetection = ({
  active,
  pointerCoordinates,
  collisionRect,
  droppableRects,
  droppableContainers,
}) => {
  const point = pointerCoordinates ?? {
    x: collisionRect.left + collisionRect.width / 2,
    y: collisionRect.top + collisionRect.height / 2,
  };
  const from = placeOf(active)?.index ?? 0;
  let best: { value: number; collision: Collision } | null = null;
  for (const container of droppableContainers) {
    const rect = droppableRects.get(container.id);
    const place = placeOf(container);
    if (!rect || !place) continue;
    const sides: (0 | 1)[] = pointerCoordinates ? [0, 1] : [place.index > from ? 1 : 0];
    const isTaken = place.isEmpty && within(point, rect);
    for (const side of isTaken ? ([0] as const) : sides) {
      const value = isTaken
        ? -1
        : pointerCoordinates
          ? distance(point, rect, side)
          : Math.hypot(point.x - (rect.left + rect.right) / 2, point.y - (rect.top + rect.bottom) / 2);
      if (best && best.value <= value) continue;
      const gap: Gap = {
        at: place.index + side,
        x: isTaken ? (rect.left + rect.right) / 2 : side ? rect.right : rect.left,
        top: rect.top,
        height: rect.height,
      };
      best = { value, collision: { id: container.id, data: { droppableContainer: container, value, gap } } };
    }
  }
  return best ? [best.collision] : [];
};

const KEY_CODES = { start: ["Space"], cancel: ["Escape"], end: ["Space", "Enter"] };
const ENDING = [...KEY_CODES.end, ...KEY_CODES.cancel];

/** What is carried by keys: from which place, and to which it has come. Kept outside of what is drawn, as keys may be faster. */
export class Carry {
  private from = 0;
  private to: number | null = null;
  /** Anything, by pointer too. */
  isCarrying = false;
  /** A key has put it down or back, and the library has not heard of it yet. */
  private isEnding = false;
  /** Told where the gap is drawn when keys have moved it. */
  moved: (gap: Gap) => void = () => undefined;

  lift(index: number) {
    this.from = index;
    this.to = index;
    this.isCarrying = true;
    this.isEnding = false;
  }

  end() {
    this.to = null;
    this.isCarrying = false;
    this.isEnding = false;
  }

  /**
   * The library begins to hear keys a moment after it has lifted something: of hands that are faster it would not hear that they put
   * it down, and everything pressed from then on would go to what is carried. It is told again until it has heard.
   */
  private tellAgain(code: string, times = 40) {
    setTimeout(() => {
      if (!this.isCarrying || !this.isEnding) return;
      const event = new KeyboardEvent("keydown", { code, bubbles: true, cancelable: true });
      // For the library alone: nothing else on the page takes it for a key of its own.
      event.preventDefault();
      document.dispatchEvent(event);
      if (!this.isCarrying) return;
      if (times > 0) this.tellAgain(code, times - 1);
      // There is nobody to hear: no key is kept from the page for that.
      else this.end();
    });
  }

  /** The place that it has come to, or null where a pointer carries it. */
  get place() {
    return this.to;
  }

  /** The gap that putting down puts into, or null where a pointer carries it. */
  get gap() {
    return this.to === null ? null : this.to > this.from ? this.to + 1 : this.to;
  }

  /** A key pressed in the box of the cells; whether it was for what is carried or lifts something. */
  press(event: Pick<KeyboardEvent, "code" | "target" | "preventDefault">, box: ParentNode): boolean {
    if (!this.isCarrying) {
      const { swatch, index } = (event.target as HTMLElement).dataset;
      if (event.code !== "Space" || swatch === undefined) return false;
      this.lift(Number(index));
      return true;
    }
    if (this.to === null) return true;
    if (this.isEnding) return event.code === "Space";
    // Whatever is pressed meanwhile is for what is carried: Escape puts it back and leaves a preview alone.
    event.preventDefault();
    if (event.code.startsWith("Arrow")) {
      const next = nextPlace(event.code, this.to, box);
      if (next) {
        const { left, right, top, height } = next.rect;
        this.to = next.index;
        this.moved({ at: this.gap ?? 0, x: this.to > this.from ? right : left, top, height });
      }
    } else if (ENDING.includes(event.code)) {
      this.isEnding = true;
      this.tellAgain(event.code);
    }
    return true;
  }
}

/** The place beside another, above or below it among those that are drawn; undefined where there is none. */
function nextPlace(code: string, from: number, box: ParentNode) {
  const places = [...box.querySelectorAll<HTMLElement>("[data-index], [data-empty]")].map((cell) => ({
    index: Number(cell.dataset.index ?? cell.dataset.empty),
    rect: cell.getBoundingClientRect(),
  }));
  const step = { ArrowLeft: -1, ArrowRight: 1 }[code];
  if (step !== undefined) return places.find(({ index }) => index === from + step);
  const here = places.find(({ index }) => index === from)?.rect;
  const down = code === "ArrowDown" ? 1 : -1;
  if (!here) return undefined;
  const middle = (rect: Rect) => (rect.left + rect.right) / 2;
  const far = (rect: Rect) => Math.abs(middle(rect) - middle(here)) + Math.abs(rect.top - here.top) * OFF_ROW;
  return places
    .filter(({ rect }) => (rect.top - here.top) * down > 1)
    .sort((one, other) => far(one.rect) - far(other.rect))[0];
}

/** The gap of an event of dragging. */
function gapOf({ collisions }: Pick<DragMoveEvent, "collisions">): Gap | null {
  return (collisions?.[0]?.data as { gap?: Gap } | undefined)?.gap ?? null;
}

/** Which swatches move with one: all that are selected, where it is. */
export function movedWith(id: string, shown: readonly Swatch[], selection: ReadonlySet<string>): string[] {
  return selection.has(id)
    ? shown.filter((swatch) => selection.has(swatch.id)).map((swatch) => swatch.id)
    : [id];
}

/** Where a gap is, in words. */
export function gapInWords(at: number, shown: readonly Swatch[]): string {
  const before = shown[at - 1]?.name;
  const behind = shown[at]?.name;
  if (before && behind) return `Between ${before} and ${behind}.`;
  return behind ? `Before ${behind}.` : before ? `Behind ${before}.` : `Place ${at}.`;
}

/** One for each box of cells. */
export function useCarry(): Carry {
  return useState(() => new Carry())[0];
}

const INSTRUCTIONS =
  "Space lifts what is selected, arrow keys carry it, Space puts it down, Escape puts it back.";

const BY_POINTER = { activationConstraint: { distance: STILL_PX } };

interface Props {
  shown: readonly Swatch[];
  /** Called with what was carried and the gap that it was put into. */
  onMove: (ids: string[], gap: number) => void;
  carry: Carry;
  children: ReactNode;
}

/** Swatches inside are carried to other places, by pointer and by keys; each step is said aloud. */
export function Moving({ shown, onMove, carry, children }: Props) {
  const lens = useLens();
  const [carried, setCarried] = useState<string[]>([]);
  const [gap, setGap] = useState<Gap | null>(null);
  const [tray, setTray] = useState<{ over: string | null } | null>(null);
  const queries = useQueryClient();
  const { id: bench } = useBench();
  carry.moved = setGap;
  // The same ones for as long as the box is there: with others every cell would be drawn again.
  const byKeys = useMemo(() => {
    // The keys have moved it already: what is drawn follows.
    const followed: KeyboardCoordinateGetter = (_, { context }) => {
      const { droppableContainers, droppableRects } = context;
      const there = droppableContainers.getEnabled().find((entry) => placeOf(entry)?.index === carry.place);
      const rect = there && droppableRects.get(there.id);
      return rect ? { x: rect.left, y: rect.top } : undefined;
    };
    return { coordinateGetter: followed, keyboardCodes: KEY_CODES };
  }, [carry]);
  const sensors = useSensors(useSensor(PointerSensor, BY_POINTER), useSensor(KeyboardSensor, byKeys));
  const idsOf = (active: Active) => movedWith(String(active.id), shown, useScreen.getState().selection);
  // Only a pointer comes to a card; keys carry along the places.
  const cardOf = ({ activatorEvent, delta }: DragMoveEvent) =>
    activatorEvent instanceof PointerEvent
      ? cardAt(activatorEvent.clientX + delta.x, activatorEvent.clientY + delta.y)
      : null;
  const finish = () => {
    setTray(null);
    carry.end();
    setCarried([]);
    setGap(null);
  };
  const end = (event: DragEndEvent) => {
    const at = carry.gap ?? gapOf(event)?.at;
    const card = cardOf(event);
    finish();
    if (card) {
      void takeToCard(queries, bench, idsOf(event.active), card);
      return;
    }
    if (at !== undefined) onMove(idsOf(event.active), at);
  };
  const namesOf = (active: Active) => {
    const ids = idsOf(active);
    return ids.length === 1
      ? (shown.find((swatch) => swatch.id === ids[0])?.name ?? "it")
      : `${ids.length} swatches`;
  };
  const said = (active: Active, over: Over | null) => {
    const [from, to] = [placeOf(active)?.index, over ? placeOf(over)?.index : undefined];
    if (from === undefined || to === undefined || from === to) return undefined;
    return gapInWords(to + (to > from ? 1 : 0), shown);
  };
  const colors = new Map(shown.map((swatch) => [swatch.id, swatch.hex]));
  return (
    <DndContext
      sensors={sensors}
      collisionDetection={nearestGap}
      accessibility={{
        screenReaderInstructions: { draggable: INSTRUCTIONS },
        announcements: {
          onDragStart: ({ active }) => `Lifted ${namesOf(active)}.`,
          onDragOver: ({ active, over }) => said(active, over),
          onDragEnd: ({ active, over }) => `Put ${namesOf(active)} down. ${said(active, over) ?? ""}`.trim(),
          onDragCancel: ({ active }) => `Put ${namesOf(active)} back.`,
        },
      }}
      onDragStart={({ active, activatorEvent }) => {
        // What keys lift is known already, or will be: this may come before the box has heard the key.
        if (!(activatorEvent instanceof KeyboardEvent)) {
          carry.isCarrying = true;
          setTray({ over: null });
        }
        setCarried(idsOf(active));
      }}
      onDragMove={(event) => {
        if (carry.place !== null) return;
        const over = cardOf(event)?.id ?? null;
        setTray((before) => (before && before.over !== over ? { over } : before));
        setGap(over ? null : gapOf(event));
      }}
      onDragEnd={end}
      onDragCancel={finish}
    >
      {children}
      {createPortal(
        <>
          <DragOverlay dropAnimation={null} style={{ width: "auto", height: "auto" }}>
            {carried.length > 0 && (
              <span className="flex w-max items-center rounded-sm bg-raised p-1 opacity-90 shadow">
                {carried.slice(0, MOST_CARRIED).map((id) => (
                  <span key={id} className="size-5" style={{ background: lens.css(colors.get(id) ?? "") }} />
                ))}
                {carried.length > MOST_CARRIED && <span className="px-1 text-mini">{carried.length}</span>}
              </span>
            )}
          </DragOverlay>
          {tray && carried.length > 0 && <CardTray over={tray.over} />}
          {gap && carried.length > 0 && (
            <div
              aria-hidden="true"
              data-gap=""
              className="pointer-events-none fixed z-30 w-[3px] bg-ink shadow-[0_0_0_1px_var(--ground)]"
              style={{ left: gap.x - 1, top: gap.top - 6, height: gap.height + 12 }}
            />
          )}
        </>,
        document.body,
      )}
    </DndContext>
  );
}

/** A place that swatches can be carried to and, where one stands there, from. */
export function useMovable(id: string, index: number, isEmpty = false) {
  const data: Place = { index, isEmpty };
  const { setNodeRef: setDropRef } = useDroppable({ id, data });
  const { setNodeRef, listeners, isDragging } = useDraggable({ id, data, disabled: isEmpty });
  return {
    ref: (node: HTMLElement | null) => {
      setDropRef(node);
      setNodeRef(node);
    },
    listeners: isEmpty ? undefined : listeners,
    isDragging,
  };
}
