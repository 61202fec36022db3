import { useEffect } from "react";
import { useScreen } from "../shell/store";
import { showToolbar } from "../stages/arrange/views";
import { useGather } from "../stages/gather/views";
import type { BenchState } from "./context";
import { STAGE_ROW } from "./stages";

/** What the keys do, as the Keys panel lists it. */
export const KEYS: [string, string][] = [
  ["1 – 5", "switch the stage"],
  ["← →", "go along the strip; with Shift, select along the way"],
  ["Home, End", "first and last swatch"],
  ["Ctrl ← →", "move the selected swatches"],
  ["Ctrl A", "select all"],
  ["Enter or F2", "rename the swatch; Enter goes on to the next"],
  ["L", "lock or unlock"],
  ["D", "duplicate"],
  ["Delete", "delete"],
  ["A", "add a color by typing it"],
  ["G", "group the selected swatches"],
  ["M", "merge the selected swatches"],
  ["Ctrl Z, Ctrl Shift Z", "undo, redo"],
  ["K, Escape", "keep a preview, put it back"],
  ["+ − 0", "zoom in, out, fit"],
  ["F, held", "flicker to the original"],
];

function isTyping(target: EventTarget | null) {
  return (
    target instanceof HTMLElement &&
    (target.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName)) &&
    (target as HTMLInputElement).type !== "radio" &&
    (target as HTMLInputElement).type !== "checkbox"
  );
}

/** Move the focus to a marked part of the screen once it is there; `press` also presses it. */
export function focusMark(mark: string, press = false) {
  requestAnimationFrame(() => {
    const part = document.querySelector<HTMLElement>(`[data-mark="${mark}"]`);
    part?.focus();
    if (press) part?.click();
  });
}

/** Keys that work anywhere on the bench, but not while something is being typed. */
export function useBenchKeys(bench: BenchState) {
  useEffect(() => {
    const press = (event: KeyboardEvent) => {
      if (event.defaultPrevented || isTyping(event.target)) return;
      const { selected, selection, select, setStage } = useScreen.getState();
      const command = event.ctrlKey || event.metaKey;
      const key = event.key.length === 1 ? event.key.toLowerCase() : event.key;
      const done = () => event.preventDefault();
      if (command && key === "z") {
        done();
        void bench.change({ kind: event.shiftKey ? "redo" : "undo" });
      } else if (command && key === "y") {
        done();
        void bench.change({ kind: "redo" });
      } else if (command && key === "a") {
        done();
        select(bench.shown.map((swatch) => swatch.id));
      } else if (command || event.altKey) {
        return;
      } else if (/^[1-9]$/.test(key)) {
        const stage = STAGE_ROW[Number(key) - 1];
        if (stage) setStage(stage.id);
      } else if (key === "a") {
        done();
        setStage("gather");
        useGather.getState().setView("type");
        focusMark("entry");
      } else if (key === "k" && bench.draft) {
        void bench.keep();
      } else if (key === "Escape" && bench.draft) {
        bench.discard();
      } else if (key === "g" || key === "m") {
        done();
        setStage("arrange");
        showToolbar();
        focusMark(key === "g" ? "group-selected" : "merge-selected", true);
      } else if (selected.length === 0) {
        return;
      } else if (key === "Delete" || key === "Backspace") {
        done();
        void bench.operate({ kind: "delete_swatches", ids: selected });
      } else if (key === "d") {
        void bench.operate({ kind: "duplicate_swatches", ids: selected });
      } else if (key === "l") {
        const locked = bench.shown.some((swatch) => selection.has(swatch.id) && !swatch.locked);
        void bench.operate({ kind: "lock_swatches", ids: selected, locked });
      } else if (key === "F2") {
        done();
        focusMark("swatch-name");
      }
    };
    window.addEventListener("keydown", press);
    return () => window.removeEventListener("keydown", press);
  }, [bench]);
}
