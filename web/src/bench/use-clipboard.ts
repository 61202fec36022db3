import { type QueryClient, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { KEYS } from "../api/queries";
import { Problem } from "../api/request";
import type { Palette } from "../api/types";
import { inWords } from "../api/words";
import { useScreen } from "../shell/store";
import { isTypedInto } from "../ui/keys";
import { asLines, bringing, CLIP_TYPE, type Clip, readClip, useClip } from "./clip";
import { type Bench, shownNow } from "./context";

/** The selected swatches as they are copied: as text, and where they are kept as a clip. */
function selectedClip(queries: QueryClient, bench: Bench) {
  const { selection } = useScreen.getState();
  const swatches = shownNow(queries, bench).filter((swatch) => selection.has(swatch.id));
  const palette = queries.getQueryData<Palette>(KEYS.palette(bench.id));
  const kept = new Set(palette?.swatches.map((swatch) => swatch.id));
  // What a preview would make is in no step yet: its colors and names go as text alone.
  const clip: Clip | null =
    palette && swatches.every((swatch) => kept.has(swatch.id))
      ? {
          palette: palette.id,
          name: palette.name,
          step: palette.revision,
          ids: swatches.map((swatch) => swatch.id),
        }
      : null;
  return { swatches, clip, text: asLines(swatches) };
}

const counted = (count: number) => (count === 1 ? "1 swatch is" : `${count} swatches are`);

/** Copy by a menu, where the browser lets a page write to the clipboard; what can be pasted whole, or null. */
export async function copySelected(queries: QueryClient, bench: Bench): Promise<Clip | null> {
  const { say } = useScreen.getState();
  const { swatches, clip, text } = selectedClip(queries, bench);
  if (swatches.length === 0) return null;
  useClip.getState().set(clip);
  try {
    await navigator.clipboard.writeText(text);
  } catch {
    if (!clip) {
      say("The browser does not let this page write to the clipboard. Press Ctrl C instead.", {
        kind: "wrong",
      });
      return null;
    }
  }
  say(`${counted(swatches.length)} copied.`);
  return clip;
}

/** Put a clip at the end, or behind the group it belongs to, and select what came. */
export async function pasteClip(queries: QueryClient, bench: Bench, clip: Clip) {
  const { say, select } = useScreen.getState();
  try {
    const known = new Set(
      queries.getQueryData<Palette>(KEYS.palette(bench.id))?.swatches.map((swatch) => swatch.id),
    );
    const after = await bench.commands.operate(await bringing(queries, clip));
    if (after) select(after.swatches.filter((swatch) => !known.has(swatch.id)).map((swatch) => swatch.id));
  } catch (error) {
    if (error instanceof Problem && error.status === 404)
      say("The palette that these were copied from is gone. Copy them anew.", { kind: "wrong" });
    else say(inWords(error), { kind: "wrong" });
  }
}

/** Whether an event of the clipboard is for a field, or for text that is selected. */
function isForText(event: ClipboardEvent): boolean {
  const { target } = event;
  return (
    (isTypedInto(target) && !(target instanceof HTMLSelectElement)) ||
    (event.type !== "paste" && !(window.getSelection()?.isCollapsed ?? true))
  );
}

/** Ctrl C, X and V on a bench: selected swatches as lines of text, and whole for another palette. */
export function useClipboard(bench: Bench) {
  const queries = useQueryClient();
  useEffect(() => {
    const copy = (event: ClipboardEvent) => {
      if (isForText(event) || !event.clipboardData) return;
      const { swatches, clip, text } = selectedClip(queries, bench);
      if (swatches.length === 0) return;
      event.preventDefault();
      event.clipboardData.setData("text/plain", text);
      if (clip) event.clipboardData.setData(CLIP_TYPE, JSON.stringify(clip));
      useClip.getState().set(clip);
      const { say } = useScreen.getState();
      if (event.type === "copy") say(`${counted(swatches.length)} copied.`);
      else if (clip) void bench.commands.operate({ kind: "delete_swatches", ids: clip.ids });
      else say("A preview is copied, not cut: keep it or put it back first.", { kind: "wrong" });
    };
    const paste = (event: ClipboardEvent) => {
      if (isForText(event)) return;
      const clip = readClip(event.clipboardData?.getData(CLIP_TYPE) ?? "");
      // Anything else is looked into as what it is: a file, or a text with colors.
      if (!clip) return;
      event.preventDefault();
      event.stopPropagation();
      void pasteClip(queries, bench, clip);
    };
    document.addEventListener("copy", copy);
    document.addEventListener("cut", copy);
    document.addEventListener("paste", paste);
    return () => {
      document.removeEventListener("copy", copy);
      document.removeEventListener("cut", copy);
      document.removeEventListener("paste", paste);
    };
  }, [queries, bench]);
}
