import { create } from "zustand";

/** Ways to look at the palette, then things to do with all of it. */
export const ARRANGE_VIEWS = [
  { id: "list", label: "List", has: "toolbar" },
  { id: "grid", label: "Grid", has: "toolbar" },
  { id: "chips", label: "Chips", has: "toolbar" },
  { id: "map", label: "Map", has: "toolbar" },
  { id: "picture", label: "Picture", has: "toolbar" },
  { id: "sort", label: "Sort", has: "draft" },
  { id: "twins", label: "Near twins", has: "draft" },
  { id: "adjust", label: "Adjust", has: "draft" },
  { id: "compare", label: "Against another", has: "draft" },
  { id: "variants", label: "Variants", has: "draft" },
] as const;
export type ArrangeView = (typeof ARRANGE_VIEWS)[number]["id"];

export const useArrange = create<{ view: ArrangeView; setView: (view: ArrangeView) => void }>((set) => ({
  view: "list",
  setView: (view) => set({ view }),
}));

/** Go where the selected swatches can be grouped and merged. */
export function showToolbar() {
  const { view, setView } = useArrange.getState();
  if (ARRANGE_VIEWS.find((entry) => entry.id === view)?.has !== "toolbar") setView("list");
}
