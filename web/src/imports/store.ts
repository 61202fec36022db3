import { create } from "zustand";

interface Waiting {
  files: File[];
  /** The palette of the bench that the files came to, or null on the shelf. */
  target: string | null;
}

/** Files that wait to be looked into; while there are any, the import page is open. */
export const useWaitingFiles = create<{
  waiting: Waiting | null;
  open: (files: File[], target: string | null) => void;
  close: () => void;
}>((set) => ({
  waiting: null,
  open: (files, target) => set({ waiting: { files, target } }),
  close: () => set({ waiting: null }),
}));

/** Pictures that came to a bench, until the artist has said what they are for. */
export const useDroppedPictures = create<{
  files: File[];
  ask: (files: File[]) => void;
  close: () => void;
}>((set) => ({
  files: [],
  ask: (files) => set({ files }),
  close: () => set({ files: [] }),
}));

/** Whether a file is one of the pictures that the server reads. types : media types and endings, as it lists them. */
export function isPicture(file: File, types: readonly string[]) {
  const ending = /\.[^.]+$/.exec(file.name.toLowerCase())?.[0] ?? "";
  return types.includes(ending) || types.includes(file.type);
}

export function isDrawing(file: File) {
  return /\.svgz?$/i.test(file.name) || file.type === "image/svg+xml";
}

/** Pasted text as a file of its own, so that it goes the same way. */
export function textAsFile(text: string): File {
  return new File([text], "Pasted text.txt", { type: "text/plain" });
}
