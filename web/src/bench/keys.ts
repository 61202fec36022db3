import { useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { useScreen } from "../shell/store";
import { isForThePage } from "../ui/keys";
import { focusMark } from "../ui/marks";
import { type Bench, shownNow } from "./context";
import { runStageKey, type Stage } from "./stages";

/** What the keys of the bench itself do. */
const OWN: [string, string][] = [
  ["← →", "go along the strip; with Shift, select along the way"],
  ["Home, End", "first and last swatch"],
  ["Ctrl ← →", "move the selected swatches"],
  ["Ctrl A", "select all"],
  ["Enter or F2", "rename the swatch; Enter goes on to the next"],
  ["L", "lock or unlock"],
  ["D", "duplicate"],
  ["Delete", "delete"],
  ["Ctrl Z, Ctrl Shift Z", "undo, redo"],
  ["K, Escape", "keep a preview, put it back"],
  ["+ − 0", "zoom in, out, fit"],
  ["F, held", "flicker to the original"],
];

/** What the keys do, as the Keys panel lists it: those of the stages, then the bench's own. */
export function keysOf(stages: readonly Stage[]): [string, string][] {
  const keys = stages.flatMap((stage) => stage.keys);
  return [
    [`1 – ${stages.length}`, "switch the stage"],
    ...keys.map((entry): [string, string] => [entry.key.toUpperCase(), entry.use]),
    ...OWN,
  ];
}

/** Keys that work anywhere on the bench, but not while something is being typed. */
export function useBenchKeys(bench: Bench, stages: readonly Stage[]) {
  const queries = useQueryClient();
  useEffect(() => {
    const press = (event: KeyboardEvent) => {
      if (!isForThePage(event)) return;
      const { selected, selection, select, setStage } = useScreen.getState();
      const command = event.ctrlKey || event.metaKey;
      const key = event.key.length === 1 ? event.key.toLowerCase() : event.key;
      const done = () => event.preventDefault();
      const { commands, view } = bench;
      const shown = () => shownNow(queries, bench);
      if (command && key === "z") {
        done();
        void commands.change({ kind: event.shiftKey ? "redo" : "undo" });
      } else if (command && key === "y") {
        done();
        void commands.change({ kind: "redo" });
      } else if (command && key === "a") {
        done();
        select(shown().map((swatch) => swatch.id));
      } else if (command || event.altKey) {
        return;
      } else if (/^[1-9]$/.test(key)) {
        const stage = stages[Number(key) - 1];
        if (stage) setStage(stage.id);
      } else if (key === "k" && view.getState().draft) {
        void commands.keep();
      } else if (key === "Escape" && view.getState().draft) {
        commands.discard();
      } else if (stages.some((stage) => stage.keys.some((entry) => entry.key === key))) {
        done();
        for (const stage of stages)
          for (const entry of stage.keys) if (entry.key === key) runStageKey(stages, entry.id);
      } else if (selected.length === 0) {
        return;
      } else if (key === "Delete" || key === "Backspace") {
        done();
        void commands.operate({ kind: "delete_swatches", ids: selected });
      } else if (key === "d") {
        void commands.operate({ kind: "duplicate_swatches", ids: selected });
      } else if (key === "l") {
        const locked = shown().some((swatch) => selection.has(swatch.id) && !swatch.locked);
        void commands.operate({ kind: "lock_swatches", ids: selected, locked });
      } else if (key === "F2") {
        done();
        focusMark("swatch-name");
      }
    };
    window.addEventListener("keydown", press);
    return () => window.removeEventListener("keydown", press);
  }, [bench, stages, queries]);
}
