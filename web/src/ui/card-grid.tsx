import { useVirtualizer } from "@tanstack/react-virtual";
import { type ReactNode, useEffect, useLayoutEffect, useRef, useState } from "react";

interface Props<Item> {
  /** Those that are here; of further ones only the room is drawn. */
  items: readonly Item[];
  /** How many there are in all; as many as are here, where nothing else is said. */
  total?: number;
  /** Told how many cards must be here for all that is looked at to be drawn. */
  onWanted?: (count: number) => void;
  /** What scrolls, somewhere around this grid; null until it is there. */
  scroll: HTMLElement | null;
  leastWidth: number;
  /** How high a card is, its gap included. */
  height: number;
  columnGap: number;
  keyOf: (item: Item) => string;
  children: (item: Item) => ReactNode;
}

/** Cards in as many columns as there is room for; only rows near the view are drawn, so that thousands stay quick. */
export function CardGrid<Item>({
  items,
  total = items.length,
  onWanted,
  scroll,
  leastWidth,
  height,
  columnGap,
  keyOf,
  children,
}: Props<Item>) {
  const box = useRef<HTMLUListElement>(null);
  const [place, setPlace] = useState({ columns: 1, top: 0 });
  useLayoutEffect(() => {
    const list = box.current;
    const area = scroll;
    if (!list || !area) return;
    const measure = () => {
      const columns = Math.max(1, Math.floor((list.clientWidth + columnGap) / (leastWidth + columnGap)));
      const top = list.getBoundingClientRect().top - area.getBoundingClientRect().top + area.scrollTop;
      setPlace((before) => (before.columns === columns && before.top === top ? before : { columns, top }));
    };
    measure();
    const observer = new ResizeObserver(measure);
    observer.observe(list);
    if (area.firstElementChild) observer.observe(area.firstElementChild);
    return () => observer.disconnect();
  }, [scroll, leastWidth, columnGap]);
  const rows = Math.ceil(total / place.columns);
  const virtualizer = useVirtualizer({
    count: rows,
    getScrollElement: () => scroll,
    estimateSize: () => height,
    overscan: 4,
    scrollMargin: place.top,
  });
  const drawn = virtualizer.getVirtualItems();
  const wanted = Math.min(total, ((drawn.at(-1)?.index ?? -1) + 1) * place.columns);
  // biome-ignore lint/correctness/useExhaustiveDependencies: asked again when some have come, until there are enough
  useEffect(() => onWanted?.(wanted), [wanted, items.length, onWanted]);
  return (
    <ul ref={box} className="relative m-0 list-none p-0" style={{ height: virtualizer.getTotalSize() }}>
      {drawn.flatMap((row) => {
        const first = row.index * place.columns;
        const inRow = Math.min(place.columns, total - first);
        return Array.from({ length: Math.max(0, inRow) }, (_, column) => {
          const item = items[first + column];
          return (
            <li
              key={item === undefined ? `to come ${first + column}` : keyOf(item)}
              aria-hidden={item === undefined || undefined}
              className="group absolute top-0 min-w-0"
              style={{
                left: `calc((100% + ${columnGap}px) / ${place.columns} * ${column})`,
                width: `calc((100% + ${columnGap}px) / ${place.columns} - ${columnGap}px)`,
                transform: `translateY(${row.start - place.top}px)`,
              }}
            >
              {item === undefined ? <span className="block h-14 bg-panel" /> : children(item)}
            </li>
          );
        });
      })}
    </ul>
  );
}
