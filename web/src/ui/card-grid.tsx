import { useVirtualizer } from "@tanstack/react-virtual";
import { type ReactNode, useLayoutEffect, useRef, useState } from "react";

interface Props<Item> {
  items: readonly Item[];
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
  const rows = Math.ceil(items.length / place.columns);
  const virtualizer = useVirtualizer({
    count: rows,
    getScrollElement: () => scroll,
    estimateSize: () => height,
    overscan: 4,
    scrollMargin: place.top,
  });
  return (
    <ul ref={box} className="relative m-0 list-none p-0" style={{ height: virtualizer.getTotalSize() }}>
      {virtualizer.getVirtualItems().flatMap((row) =>
        items.slice(row.index * place.columns, (row.index + 1) * place.columns).map((item, column) => (
          <li
            key={keyOf(item)}
            className="group absolute top-0 min-w-0"
            style={{
              left: `calc((100% + ${columnGap}px) / ${place.columns} * ${column})`,
              width: `calc((100% + ${columnGap}px) / ${place.columns} - ${columnGap}px)`,
              transform: `translateY(${row.start - place.top}px)`,
            }}
          >
            {children(item)}
          </li>
        )),
      )}
    </ul>
  );
}
