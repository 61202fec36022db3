import { useQueryClient } from "@tanstack/react-query";
import { navigate } from "wouter/use-browser-location";
import { create } from "zustand";
import { beginPalette } from "../api/commands";
import { uploadPicture } from "../api/files";
import { isJob } from "../api/jobs";
import { KEYS } from "../api/queries";
import { inWords } from "../api/words";
import { ended } from "../shell/jobs";
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

/** A palette made from a picture: at once, or when the job that makes it has ended. Null where that was called off. */
export function useBegin() {
  const queries = useQueryClient();
  return async (picture: string): Promise<string | null> => {
    const answer = await beginPalette(picture);
    if (isJob(answer)) return ended(queries, answer.id);
    queries.setQueryData(KEYS.palette(answer.id), answer);
    return answer.id;
  };
}

/** Bring picture files in: each is stored and reduced; the last one's bench opens. */
export function useBringIn() {
  const queries = useQueryClient();
  const say = useScreen((screen) => screen.say);
  const set = useProgress((state) => state.set);
  const begin = useBegin();
  return async (files: FileList | File[]) => {
    let opened: string | null = null;
    for (const file of [...files]) {
      try {
        set({ name: file.name, share: 0, step: "sending" });
        const picture = await uploadPicture(file, (share) =>
          set({ name: file.name, share, step: share < 1 ? "sending" : "reducing" }),
        );
        set({ name: file.name, share: 1, step: "reducing" });
        opened = (await begin(picture.id)) ?? opened;
      } catch (error) {
        say(inWords(error), { kind: "wrong" });
      }
    }
    set(null);
    await queries.invalidateQueries({ queryKey: KEYS.shelf });
    if (opened) navigate(`/palettes/${opened}`);
  };
}
