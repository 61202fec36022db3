import { useVirtualizer } from "@tanstack/react-virtual";
import { Lock } from "lucide-react";
import { type KeyboardEvent, memo, useLayoutEffect, useMemo, useRef, useState } from "react";
import type { Swatch } from "../../api/types";
import { useCommands, useGroups, usePalette, usePreview, useShown } from "../../bench/context";
import { Moving, useCarry, useMovable } from "../../bench/moving";
import { placesOf } from "../../bench/strip-cell";
import { targetIndex } from "../../bench/strip-layout";
import { useLens } from "../../lens/lens";
import { useScreen, useScreenParts } from "../../shell/store";
import { bringIntoView } from "../../ui/bring-into-view";
import { textOn } from "../../ui/css-color";
import { Sentence } from "../../ui/sentence";
import { Columns, GroupWords } from "./group-words";
import { Marquee } from "./marks";
import { Toolbar } from "./toolbar";
import { useCells } from "./use-cells";

const HEADING_PX = 42;
const AROUND = 6;
const USUAL_COLUMNS = 12;

type Place = ReturnType<typeof placesOf>[number];
type Line = { kind: "heading"; group: string | null } | { kind: "row"; places: Place[]; columns: number };

interface Shape {
  /** Width that a cell takes where no number of columns is set; null for the usual number. */
  cellPx: number | null;
  rowPx: number;
}

const GRID: Shape = { cellPx: null, rowPx: 62 };
const CHIPS: Shape = { cellPx: 172, rowPx: 150 };

function linesOf(
  places: Place[],
  groups: { id: string; columns?: number | null }[],
  usual: number,
  hasHeadings: boolean,
): Line[] {
  const columns = new Map(groups.map((group) => [group.id, group.columns ?? null]));
  const lines: Line[] = [];
  let run: Place[] = [];
  let here: string | null = null;
  const close = () => {
    if (run.length === 0) return;
    const wide = (here && columns.get(here)) || usual;
    if (hasHeadings) lines.push({ kind: "heading", group: here });
    for (let start = 0; start < run.length; start += wide)
      lines.push({ kind: "row", places: run.slice(start, start + wide), columns: wide });
    run = [];
  };
  for (const place of places) {
    const group: string | null = place.swatch ? place.swatch.group : here;
    if (group !== here) close();
    here = group;
    run.push(place);
  }
  close();
  return lines;
}

/** One place; drawn again only when it or whether it is selected changes. */
const Cell = memo(function Cell({
  place,
  chips,
  current,
}: {
  place: Place;
  chips: boolean;
  current: boolean;
}) {
  const lens = useLens();
  const selected = useScreen((screen) => (place.swatch ? screen.selection.has(place.swatch.id) : false));
  const { swatch, index } = place;
  const { ref, listeners, isDragging } = useMovable(swatch?.id ?? `empty-${index}`, index, !swatch);
  if (!swatch)
    return (
      <div ref={ref} data-empty={index} className="min-w-0" title={`${index} · empty`}>
        <div className={`hatched ${chips ? "h-24" : "h-11"}`} />
        <span className="text-mini text-quiet">{index}</span>
      </div>
    );
  return (
    <div
      ref={ref}
      {...listeners}
      role="option"
      aria-selected={selected}
      aria-label={`${index} ${swatch.name}, ${swatch.hex}`}
      tabIndex={current ? 0 : -1}
      id={`cell-${swatch.id}`}
      data-swatch={swatch.id}
      data-index={index}
      title={`${index} · ${swatch.name} · ${swatch.hex}`}
      className={`min-w-0 cursor-default outline-offset-2 select-none ${isDragging ? "opacity-60" : ""}`}
    >
      <div
        className={`relative ${chips ? "h-24" : "h-11"} ${swatch.alpha === 0 ? "checkered" : ""} ${
          selected ? "shadow-[0_0_0_2px_var(--ground),0_0_0_4px_var(--ink)]" : ""
        }`}
        style={swatch.alpha === 0 ? undefined : { background: lens.css(swatch.hex) }}
      >
        {swatch.locked && (
          <Lock
            size={chips ? 15 : 12}
            aria-label="Locked"
            className="absolute top-1 right-1"
            color={textOn(swatch.hex)}
          />
        )}
      </div>
      {chips ? (
        <div className="mt-1 text-small leading-[17px]">
          <span className="block truncate font-semibold">{swatch.name}</span>
          <span className="block truncate text-quiet">
            {index} · {swatch.hex}
            {swatch.coverage === null ? "" : ` · ${(swatch.coverage * 100).toFixed(1)} %`}
          </span>
        </div>
      ) : (
        <span className={`text-mini ${selected ? "font-bold" : "text-quiet"}`}>{index}</span>
      )}
    </div>
  );
});

function Cells({ shape, chips }: { shape: Shape; chips: boolean }) {
  const shown = useShown();
  const groups = useGroups();
  const palette = usePalette();
  const preview = usePreview();
  const { operate } = useCommands();
  const { selected, selection, select } = useScreenParts("selected", "selection", "select");
  const slots = preview?.kind === "step" ? preview.proposal.slots : palette.slots;
  const columns = (preview?.kind === "step" ? preview.proposal.columns : palette.columns) ?? null;
  const [width, setWidth] = useState(900);
  const { box, marquee, handlers } = useCells({ shown, movable: true });
  const carry = useCarry();
  const putDown = (ids: string[], at: number) => {
    const places = ids.map((id) => shown.findIndex((swatch) => swatch.id === id));
    const to = slots === null ? targetIndex(at, places) : Math.min(at, slots - ids.length);
    if (slots === null && places.every((place, step) => place === to + step)) return;
    void operate({ kind: "move_swatches", ids, to: Math.max(0, to) });
  };
  const usual = columns ?? (shape.cellPx ? Math.max(1, Math.floor(width / shape.cellPx)) : USUAL_COLUMNS);
  const places = useMemo(() => placesOf(shown as Swatch[], slots), [shown, slots]);
  const lines = useMemo(() => linesOf(places, groups, usual, groups.length > 0), [places, groups, usual]);
  const virtualizer = useVirtualizer({
    count: lines.length,
    getScrollElement: () => box.current,
    estimateSize: (number) => (lines[number]?.kind === "heading" ? HEADING_PX : shape.rowPx),
    overscan: AROUND,
  });
  useLayoutEffect(() => {
    if (lines.length && shape) virtualizer.measure();
  }, [lines, shape, virtualizer]);
  useLayoutEffect(() => {
    const area = box.current;
    if (!area) return;
    const measure = () => setWidth(area.clientWidth);
    measure();
    const observer = new ResizeObserver(measure);
    observer.observe(area);
    return () => observer.disconnect();
  }, [box]);
  const last = useRef<string | null>(null);
  const current = selected.at(-1) ?? null;
  useLayoutEffect(() => {
    if (current === last.current) return;
    last.current = current;
    const line = lines.findIndex(
      (entry) => entry.kind === "row" && entry.places.some((place) => place.swatch?.id === current),
    );
    if (line >= 0) bringIntoView(virtualizer, line, { above: 0, below: 0 });
  }, [current, lines, virtualizer]);
  const focusWanted = useRef(false);
  useLayoutEffect(() => {
    if (!focusWanted.current || !current) return;
    const cell = document.getElementById(`cell-${current}`);
    if (!cell) return;
    focusWanted.current = false;
    cell.focus({ preventScroll: true });
  });
  const press = (event: KeyboardEvent) => {
    if (carry.press(event, event.currentTarget)) return;
    const steps: Record<string, number> = { ArrowLeft: -1, ArrowRight: 1, ArrowUp: -usual, ArrowDown: usual };
    const step = steps[event.key];
    const isCell = (event.target as HTMLElement).dataset.swatch !== undefined;
    if (step === undefined || !(isCell || event.target === event.currentTarget)) return;
    event.preventDefault();
    const place = shown.findIndex((swatch) => swatch.id === current);
    if (event.ctrlKey || event.metaKey) {
      const ids = shown.filter((swatch) => selection.has(swatch.id)).map((swatch) => swatch.id);
      const first = shown.find((swatch) => selection.has(swatch.id));
      const from = slots === null ? shown.findIndex((swatch) => swatch.id === ids[0]) : (first?.slot ?? 0);
      const end = (slots ?? shown.length) - ids.length;
      if (ids.length)
        void operate({ kind: "move_swatches", ids, to: Math.max(0, Math.min(end, from + step)) });
      return;
    }
    const next = shown[Math.max(0, Math.min(shown.length - 1, place + step))];
    if (!next) return;
    focusWanted.current = true;
    if (event.shiftKey) select([...new Set([...selected, next.id])], next.id);
    else select([next.id], next.id);
  };
  return (
    <Moving shown={shown} carry={carry} onMove={putDown}>
      <div
        ref={box}
        role="listbox"
        aria-label={chips ? "Chips" : "Grid"}
        aria-multiselectable="true"
        tabIndex={current ? -1 : 0}
        className="relative min-h-0 grow overflow-y-auto p-1 outline-offset-[-2px]"
        onKeyDown={press}
        {...handlers}
      >
        <div role="presentation" className="relative" style={{ height: virtualizer.getTotalSize() }}>
          {virtualizer.getVirtualItems().map(({ index: number, start: top }) => {
            const line = lines[number];
            if (!line) return null;
            return line.kind === "heading" ? (
              <div
                role="presentation"
                key={number}
                className="absolute inset-x-0 flex items-center border-t border-ink text-small"
                style={{ top: top + 6, height: HEADING_PX - 10 }}
              >
                {line.group ? (
                  <GroupWords group={line.group} withColumns />
                ) : (
                  <span className="text-quiet">in no group</span>
                )}
              </div>
            ) : (
              <div
                role="presentation"
                key={number}
                className="absolute inset-x-0 grid gap-x-2.5"
                style={{
                  top,
                  height: shape.rowPx,
                  gridTemplateColumns: `repeat(${line.columns}, minmax(0, ${shape.cellPx ? `${shape.cellPx}px` : "84px"}))`,
                }}
              >
                {line.places.map((place) => (
                  <Cell
                    key={place.swatch?.id ?? `empty-${place.index}`}
                    place={place}
                    chips={chips}
                    current={place.swatch?.id === current}
                  />
                ))}
              </div>
            );
          })}
        </div>
        <Marquee box={marquee} />
      </div>
    </Moving>
  );
}

function PaletteColumns() {
  const palette = usePalette();
  const { operate } = useCommands();
  return (
    <Columns
      label="Columns of the palette"
      value={palette.columns}
      onSet={(columns) => void operate({ kind: "set_columns", columns })}
    />
  );
}

/** Swatches in columns, as programs with a grid will show them. */
export function GridView() {
  return (
    <>
      <Sentence label="What this view does">
        Drag swatches to their places; a drag that begins beside them selects.
      </Sentence>
      <Toolbar>
        <PaletteColumns />
      </Toolbar>
      <Cells shape={GRID} chips={false} />
    </>
  );
}

/** Swatches large enough to judge them. */
export function ChipsView() {
  return (
    <>
      <Sentence label="What this view does">
        Look at each color large; drag to arrange, or to select beside them.
      </Sentence>
      <Toolbar />
      <Cells shape={CHIPS} chips />
    </>
  );
}
