import { create } from "zustand";

export const ARRANGE_VIEWS = [
  { id: "list", label: "List" },
  { id: "sort", label: "Sort" },
  { id: "twins", label: "Near twins" },
] as const;
export type ArrangeView = (typeof ARRANGE_VIEWS)[number]["id"];

export const useArrange = create<{ view: ArrangeView; setView: (view: ArrangeView) => void }>((set) => ({
  view: "list",
  setView: (view) => set({ view }),
}));
