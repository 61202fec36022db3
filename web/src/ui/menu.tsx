import { lazy, type MouseEvent, type ReactNode, Suspense, useEffect, useRef, useState } from "react";

/** Something that may be done, with the key that does it as well; null is a line between two kinds. */
export type MenuEntry = { label: string; keys?: string; disabled?: boolean; run: () => void } | null;

export interface OpenMenu {
  entries: MenuEntry[];
  x: number;
  y: number;
}

interface Props {
  /** What may be done with what was pressed; nothing where the browser's own menu is wanted. */
  entriesOf: (target: HTMLElement) => MenuEntry[];
  label: string;
  children: ReactNode;
}

const LOAD_AFTER_MS = 500;
const load = () => import("./menu-list");
const MenuList = lazy(() => load().then((loaded) => ({ default: loaded.MenuList })));

/** The menu of what is inside, opened by the second button, a long touch, or the menu key. */
export function MenuArea({ entriesOf, label, children }: Props) {
  const [open, setOpen] = useState<OpenMenu | null>(null);
  const before = useRef<HTMLElement | null>(null);
  // It comes after the page and before it is wanted: keys that follow the menu key at once are for the menu.
  useEffect(() => {
    const later = setTimeout(load, LOAD_AFTER_MS);
    return () => clearTimeout(later);
  }, []);
  const look = (event: MouseEvent) => {
    const target = event.target as HTMLElement;
    // A field has a menu of its own, for what is written in it.
    if (target.closest("input, textarea, select, [contenteditable]")) return;
    const entries = entriesOf(target);
    if (entries.length === 0) return;
    event.preventDefault();
    before.current = document.activeElement as HTMLElement | null;
    setOpen({ entries, x: event.clientX, y: event.clientY });
  };
  return (
    <>
      {/* biome-ignore lint/a11y/noStaticElementInteractions: everything the menu does can be done by keys and words as well */}
      <div className="contents" onContextMenu={look}>
        {children}
      </div>
      {open && (
        <Suspense>
          <MenuList
            label={label}
            open={open}
            onClose={() => {
              setOpen(null);
              // Back to where the keys were; whatever an entry moves the focus to comes after this.
              before.current?.focus({ preventScroll: true });
            }}
          />
        </Suspense>
      )}
    </>
  );
}
