import {
  type KeyboardEvent,
  type PointerEvent,
  useCallback,
  useEffect,
  useLayoutEffect,
  useMemo,
  useRef,
  useState,
} from "react";
import type { Swatch } from "../api/types";
import { currentOf, useScreen, useScreenParts } from "../shell/store";
import { useFingersAcross } from "../ui/window";
import { useCommands, useGroups, usePalette, usePreview, useShown } from "./context";
import { renameSelected, STRIP } from "./focus";
import { Moving, STILL_PX, useCarry } from "./moving";
import { pressSwatch } from "./select";
import { Cell, EmptyCell, type Place, placesOf } from "./strip-cell";
import { layOut, rowsInView, targetIndex } from "./strip-layout";

const GAP_PX = 9;
const VIEW_ROWS = 4;
const STRIP_MARGIN = 40;
const REGAIN_MS = 1500;

interface Section {
  key: string;
  name: string | null;
  group: string | null;
  places: Place[];
}

/** Runs of places of one group; an empty place goes with what stands before it. */
function sections(places: Place[], names: Map<string, string>): Section[] {
  const made: Section[] = [];
  for (const place of places) {
    const last = made.at(-1);
    const group = place.swatch ? place.swatch.group : (last?.group ?? null);
    if (last && last.group === group) last.places.push(place);
    else {
      made.push({
        key: place.swatch?.id ?? `empty-${place.index}`,
        name: group ? (names.get(group) ?? null) : null,
        group,
        places: [place],
      });
    }
  }
  return made;
}

/** Every swatch in the order that an export keeps. */
export function Strip() {
  const shown = useShown();
  const groups = useGroups();
  const preview = usePreview();
  const palette = usePalette();
  const { operate } = useCommands();
  const slots = preview?.kind === "step" ? preview.proposal.slots : palette.slots;
  const places = useMemo(() => placesOf(shown, slots), [shown, slots]);
  const { selected, selection, anchor, select, hover, dragging } = useScreenParts(
    "selected",
    "selection",
    "anchor",
    "select",
    "hover",
    "dragging",
  );
  const marks = useScreen((screen) => screen.marks);
  const box = useRef<HTMLDivElement>(null);
  const [scrollTop, setScrollTop] = useState(0);
  const scrolled = useRef(0);
  const hold = useCallback((node: HTMLDivElement | null) => {
    box.current = node;
    scrolled.current = node?.scrollTop ?? 0;
  }, []);
  const held = useRef<{ id: string; x: number; y: number; moved: boolean } | null>(null);
  const carry = useCarry();
  const { perRow, rows, height, isSingle } = layOut(places.length, useFingersAcross(STRIP_MARGIN));
  const rowHeight = height + 2;
  const [from, to] =
    rows > VIEW_ROWS ? rowsInView(rows, rowHeight, scrollTop, VIEW_ROWS * rowHeight) : [0, rows];
  const names = new Map(groups.map((group) => [group.id, group.name]));
  const current = currentOf({ anchor, selection, selected }) ?? shown[0]?.id;
  const label = !isSingle ? "none" : places.length > 40 ? "tick" : "index";
  const focusWanted = useRef(false);

  // A cell that changes places in the document loses the focus: it gets it back unless something else took it.
  const regained = useRef<string | null>(null);
  useLayoutEffect(() => {
    if (regained.current && document.activeElement === document.body)
      document.getElementById(`swatch-${regained.current}`)?.focus({ preventScroll: true });
  });
  useLayoutEffect(() => {
    if (!focusWanted.current || !current) return;
    focusWanted.current = false;
    document.getElementById(`swatch-${current}`)?.focus({ preventScroll: false });
  });
  // Keep the swatch that the keyboard is at in view when many rows scroll.
  useEffect(() => {
    const place = places.findIndex((entry) => entry.swatch?.id === current);
    const view = box.current;
    if (!view || place < 0 || rows <= VIEW_ROWS) return;
    const top = Math.floor(place / perRow) * rowHeight;
    // Where it is scrolled to is known: asking the browser would have it lay out everything once more.
    if (top < scrolled.current) view.scrollTop = top;
    else if (top + rowHeight > scrolled.current + VIEW_ROWS * rowHeight)
      view.scrollTop = top + rowHeight - VIEW_ROWS * rowHeight;
  }, [current, places, rows, perRow, rowHeight]);

  const moveTo = async (ids: string[], index: number) => {
    const last = (slots ?? shown.length) - ids.length;
    const at = current ?? null;
    regained.current = at;
    await operate({ kind: "move_swatches", ids, to: Math.max(0, Math.min(index, last)) });
    setTimeout(() => {
      if (regained.current === at) regained.current = null;
    }, REGAIN_MS);
  };

  const swatchAt = (event: PointerEvent) =>
    (event.target as HTMLElement).closest<HTMLElement>("[data-swatch]")?.dataset.swatch;
  const down = (event: PointerEvent) => {
    const id = swatchAt(event);
    if (!id || event.button !== 0) return;
    held.current = { id, x: event.clientX, y: event.clientY, moved: false };
    if (!selection.has(id) || event.shiftKey || event.ctrlKey || event.metaKey) pressSwatch(shown, id, event);
    document.getElementById(`swatch-${id}`)?.focus({ preventScroll: true });
  };
  const move = (event: PointerEvent) => {
    const state = held.current;
    if (!state) hover(swatchAt(event) ?? null);
    else if (Math.hypot(event.clientX - state.x, event.clientY - state.y) >= STILL_PX) state.moved = true;
  };
  const up = (event: PointerEvent) => {
    const state = held.current;
    held.current = null;
    if (!state || state.moved) return;
    if (!event.shiftKey && !event.ctrlKey && !event.metaKey) select([state.id], state.id);
  };
  const putDown = (ids: string[], gap: number) => {
    const numbered = slots !== null;
    const moving = numbered
      ? ids.map((id) => shown.find((swatch) => swatch.id === id)?.slot ?? 0)
      : ids.map((id) => shown.findIndex((swatch) => swatch.id === id));
    const index = numbered ? Math.min(gap, slots - ids.length) : targetIndex(gap, moving);
    const asIs = moving.every((place, step) => place === index + step);
    if (!asIs) void moveTo(ids, index);
  };
  const press = (event: KeyboardEvent) => {
    if (carry.press(event, event.currentTarget)) return;
    const place = shown.findIndex((swatch) => swatch.id === current);
    const steps: Record<string, number> = { ArrowLeft: -1, ArrowRight: 1 };
    if (!isSingle) Object.assign(steps, { ArrowUp: -perRow, ArrowDown: perRow });
    const step = steps[event.key];
    if (step !== undefined && (event.ctrlKey || event.metaKey)) {
      const ids = shown.filter((swatch) => selection.has(swatch.id)).map((swatch) => swatch.id);
      const first = shown.find((swatch) => selection.has(swatch.id));
      void moveTo(ids, (slots === null ? shown.indexOf(first as Swatch) : (first?.slot ?? 0)) + step);
    } else if (step !== undefined || event.key === "Home" || event.key === "End") {
      const wanted = event.key === "Home" ? 0 : event.key === "End" ? shown.length - 1 : place + (step ?? 0);
      const next = shown[Math.max(0, Math.min(shown.length - 1, wanted))];
      if (!next) return;
      focusWanted.current = true;
      if (event.shiftKey) {
        const start = anchorOf(place);
        const low = Math.min(start, shown.indexOf(next));
        const high = Math.max(start, shown.indexOf(next));
        const ids = shown.slice(low, high + 1).map((swatch) => swatch.id);
        base.current = start;
        select(ids, next.id);
      } else {
        base.current = null;
        select([next.id], next.id);
      }
    } else if (event.key === "Enter") {
      renameSelected();
    } else {
      return;
    }
    event.preventDefault();
  };
  const base = useRef<number | null>(null);
  const anchorOf = (place: number) => base.current ?? place;

  if (places.length === 0) {
    return (
      <section aria-label="Strip" className="shrink-0 px-5 pt-4 pb-[25px]">
        <div className="hatched grid h-[58px] place-items-center border border-dashed border-line">
          <p className="rounded bg-ground px-3 py-1 text-quiet">
            No swatches yet. Press <strong className="text-ink">A</strong> and type a color, such as #e85421.
          </p>
        </div>
      </section>
    );
  }
  const visible = places.slice(from * perRow, to * perRow);
  const lines: Section[][] = [];
  for (let row = from; row < to; row++) {
    const start = (row - from) * perRow;
    lines.push(sections(visible.slice(start, start + perRow), names));
  }
  return (
    <section aria-label="Strip" className={`shrink-0 px-5 ${isSingle ? "pb-2" : "pt-1 pb-3"}`}>
      <Moving shown={shown} carry={carry} onMove={putDown}>
        <div
          ref={hold}
          id={STRIP}
          tabIndex={-1}
          role="listbox"
          aria-label={`Swatches${preview ? " of the preview" : ""}`}
          aria-multiselectable="true"
          aria-orientation="horizontal"
          className={`relative outline-none ${rows > VIEW_ROWS ? "overflow-y-auto" : ""}`}
          style={rows > VIEW_ROWS ? { maxHeight: VIEW_ROWS * rowHeight } : undefined}
          onScroll={(event) => {
            scrolled.current = event.currentTarget.scrollTop;
            setScrollTop(scrolled.current);
          }}
          onPointerDown={down}
          onPointerMove={move}
          onPointerUp={up}
          onPointerLeave={() => {
            held.current = null;
            hover(null);
          }}
          onPointerCancel={() => {
            held.current = null;
          }}
          onKeyDown={press}
          onFocus={(event) => {
            const id = (event.target as HTMLElement).dataset.swatch;
            if (id && (event.target as HTMLElement).matches(":focus-visible")) hover(id);
          }}
          onBlur={() => hover(null)}
          onDoubleClick={() => renameSelected()}
        >
          <div role="presentation" style={{ height: from * rowHeight }} />
          {lines.map((line) => (
            <div
              role="presentation"
              key={line[0]?.key}
              className="flex"
              style={{
                columnGap: GAP_PX,
                marginBottom: isSingle ? 0 : 2,
                paddingRight: fill(line, perRow, isSingle),
              }}
            >
              {line.map((section) => (
                // biome-ignore lint/a11y/useSemanticElements: a fieldset may not stand inside a listbox
                <div
                  key={section.key}
                  role="group"
                  aria-label={section.name ?? "No group"}
                  className="relative min-w-0"
                  style={{ flex: section.places.length }}
                >
                  {isSingle && (
                    <div
                      className={`flex h-[22px] items-start truncate pl-1.5 text-caption leading-[16px] text-quiet ${section.name ? "border-l border-ink" : ""}`}
                    >
                      {section.name}
                    </div>
                  )}
                  <div role="presentation" className="flex">
                    {section.places.map(({ index, swatch }) =>
                      swatch ? (
                        <Cell
                          key={swatch.id}
                          swatch={swatch}
                          index={index}
                          selected={selection.has(swatch.id)}
                          current={swatch.id === current}
                          css={dragging?.id === swatch.id ? dragging.css : null}
                          height={height}
                          label={label === "tick" && index % 8 === 0 ? "index" : label}
                          marked={marks.has(swatch.id)}
                        />
                      ) : (
                        <EmptyCell key={`empty-${index}`} index={index} height={height} label={label} />
                      ),
                    )}
                  </div>
                </div>
              ))}
            </div>
          ))}
          <div role="presentation" style={{ height: (rows - to) * rowHeight }} />
        </div>
      </Moving>
    </section>
  );
}

/** Room at the end of a last row that is not full, so that its swatches keep the width of the others. */
function fill(line: Section[], perRow: number, isSingle: boolean) {
  const count = line.reduce((sum, section) => sum + section.places.length, 0);
  return isSingle || count === perRow ? undefined : `${((perRow - count) / perRow) * 100}%`;
}
