import { useQueryClient } from "@tanstack/react-query";
import { navigate } from "wouter/use-browser-location";
import { create } from "zustand";
import { beginPalette } from "../api/commands";
import { uploadPicture } from "../api/files";
import { isJob } from "../api/jobs";
import { KEYS } from "../api/queries";
import type { Recipe } from "../api/types";
import { inWords } from "../api/words";
import { ended } from "../shell/jobs";
import { useScreen } from "../shell/store";

interface Progress {
  name: string;
  share: number;
  step: "sending" | "waiting" | "reducing";
}

export const useProgress = create<{
  progress: Progress | null;
  /** Ends the sending of what is on its way. */
  stop: () => void;
  set: (progress: Progress | null, stop?: () => void) => void;
}>((set) => ({
  progress: null,
  stop: () => {},
  set: (progress, stop) => set(stop ? { progress, stop } : { progress }),
}));

/** A palette made from a picture: at once, or when the job that makes it has ended. Null where that was called off. */
export function useBegin() {
  const queries = useQueryClient();
  return async (picture: string, recipe?: Recipe): Promise<string | null> => {
    const answer = await beginPalette(picture, recipe);
    if (isJob(answer)) return ended(queries, answer.id);
    queries.setQueryData(KEYS.palette(answer.id), answer);
    return answer.id;
  };
}

/** Send pictures one after the other, and do something with each; what went wrong with one is said, and the others go on. */
export function useSendPictures() {
  const queries = useQueryClient();
  const say = useScreen((screen) => screen.say);
  const set = useProgress((state) => state.set);
  return async <Made>(files: Iterable<File>, then: (picture: string) => Promise<Made | null>) => {
    const made: { name: string; made: Made }[] = [];
    for (const file of [...files]) {
      const ending = new AbortController();
      try {
        set({ name: file.name, share: 0, step: "sending" }, () => ending.abort());
        const picture = await uploadPicture(file, {
          onProgress: (share) => set({ name: file.name, share, step: share < 1 ? "sending" : "reducing" }),
          onWait: () => set({ name: file.name, share: 0, step: "waiting" }),
          signal: ending.signal,
        });
        set({ name: file.name, share: 1, step: "reducing" });
        const answer = await then(picture.id);
        if (answer !== null) made.push({ name: file.name, made: answer });
      } catch (error) {
        if (ending.signal.aborted) {
          say(`${file.name} was not sent.`);
          continue;
        }
        const why = inWords(error);
        say(why.includes(file.name) ? why : `${file.name}: ${why}`, { kind: "wrong" });
      }
    }
    set(null);
    await queries.invalidateQueries({ queryKey: KEYS.shelf });
    return made;
  };
}

/** File names as they are said: all of a few, and how many more. */
export function named(names: readonly string[]): string {
  const MOST_SAID = 3;
  const more = names.length - MOST_SAID;
  return names.slice(0, MOST_SAID).join(", ") + (more > 0 ? ` and ${more} more` : "");
}

/** Bring picture files in: each is stored and reduced. One opens on its bench; of several it is said what was made. */
export function useBringIn() {
  const say = useScreen((screen) => screen.say);
  const send = useSendPictures();
  const begin = useBegin();
  return async (files: FileList | File[]) => {
    const made = await send(files, (picture) => begin(picture));
    const [only] = made;
    if (!only) return;
    if (files.length === 1) navigate(`/palettes/${only.made}`);
    else
      say(
        `${made.length === 1 ? "One picture is" : `${made.length} pictures are`} reduced: ${named(made.map((entry) => entry.name))}.`,
        location.pathname === "/" ? {} : { action: { label: "Go to the shelf", run: () => navigate("/") } },
      );
  };
}
