import { create } from "zustand";

export type GatherView = "type" | "pick" | "companions" | "ladders" | "mix" | "bring";

export const useGather = create<{ view: GatherView; setView: (view: GatherView) => void }>((set) => ({
  view: "type",
  setView: (view) => set({ view }),
}));
