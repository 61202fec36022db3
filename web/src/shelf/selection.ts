import { create } from "zustand";

/** What is selected on the shelf; null while nothing is being selected. */
interface Selection {
  chosen: ReadonlySet<string> | null;
  begin: () => void;
  end: () => void;
  toggle: (id: string) => void;
  choose: (ids: string[]) => void;
}

export const useSelection = create<Selection>((set, get) => ({
  chosen: null,
  begin: () => set({ chosen: new Set() }),
  end: () => set({ chosen: null }),
  toggle: (id) => {
    const next = new Set(get().chosen);
    if (!next.delete(id)) next.add(id);
    set({ chosen: next });
  },
  choose: (ids) => set({ chosen: new Set(ids) }),
}));
