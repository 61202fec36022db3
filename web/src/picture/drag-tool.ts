import { create } from "zustand";
import { persist } from "zustand/middleware";
import { keptIn } from "../ui/kept";

/** What a drag over a picture does: select an area, or move the picture. */
export type DragTool = "rectangle" | "lasso" | "hand";

/** Kept in this browser: the hand is the artist's, not the palette's. */
export const useDragTool = create<{
  tool: DragTool;
  isOutlined: boolean;
  setTool: (tool: DragTool) => void;
  setOutlined: (isOutlined: boolean) => void;
}>()(
  persist(
    (set) => ({
      tool: "rectangle" as DragTool,
      isOutlined: true,
      setTool: (tool) => set({ tool }),
      setOutlined: (isOutlined) => set({ isOutlined }),
    }),
    { name: "huvren.drag", storage: keptIn(() => localStorage) },
  ),
);
