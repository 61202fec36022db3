import { useQueryClient } from "@tanstack/react-query";
import { create } from "zustand";
import { client, Problem, unwrap, uploadPicture } from "../api/client";
import { paletteKey } from "../api/palette";
import { go } from "../shell/path";
import { useScreen } from "../shell/store";

interface Progress {
  name: string;
  share: number;
  step: "sending" | "reducing";
}

export const useProgress = create<{ progress: Progress | null; set: (progress: Progress | null) => void }>(
  (set) => ({
    progress: null,
    set: (progress) => set({ progress }),
  }),
);

/** Bring picture files in: each is stored and reduced; the last one's bench opens. */
export function useBringIn() {
  const queries = useQueryClient();
  const say = useScreen((screen) => screen.say);
  const set = useProgress((state) => state.set);
  return async (files: FileList | File[]) => {
    let opened: string | null = null;
    for (const file of [...files]) {
      try {
        set({ name: file.name, share: 0, step: "sending" });
        const picture = await uploadPicture(file, (share) =>
          set({ name: file.name, share, step: share < 1 ? "sending" : "reducing" }),
        );
        set({ name: file.name, share: 1, step: "reducing" });
        const palette = await unwrap(
          client.POST("/api/palettes", {
            body: {
              picture: picture.id,
            },
          }),
        );
        queries.setQueryData(paletteKey(palette.id), palette);
        opened = palette.id;
      } catch (error) {
        say(error instanceof Problem ? error.message : String(error), { kind: "wrong" });
      }
    }
    set(null);
    await queries.invalidateQueries({ queryKey: ["shelf"] });
    if (opened) go(`/palettes/${opened}`);
  };
}
