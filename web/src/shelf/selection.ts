import { create } from "zustand";

/** What is selected on the shelf, as `kind/id`, whatever is looked for meanwhile; null while nothing is being selected. */
interface Selection {
  chosen: ReadonlySet<string> | null;
  anchor: string | null;
  begin: () => void;
  end: () => void;
  /** Select a card that was pressed, or no longer; with Shift, all from the one pressed before, in the order they are shown in. */
  press: (id: string, order: readonly string[], withShift: boolean) => void;
  choose: (ids: string[]) => void;
}

export const useSelection = create<Selection>((set, get) => ({
  chosen: null,
  anchor: null,
  begin: () => set({ chosen: new Set(), anchor: null }),
  end: () => set({ chosen: null, anchor: null }),
  press: (id, order, withShift) => {
    const { chosen, anchor } = get();
    const next = new Set(chosen);
    const [start, end] = [order.indexOf(anchor ?? id), order.indexOf(id)];
    if (withShift && start >= 0 && end >= 0) {
      for (const between of order.slice(Math.min(start, end), Math.max(start, end) + 1)) next.add(between);
      set({ chosen: next, anchor: anchor ?? id });
      return;
    }
    if (!next.delete(id)) next.add(id);
    set({ chosen: next, anchor: id });
  },
  choose: (ids) => set({ chosen: new Set(ids) }),
}));
