import { useQueryClient } from "@tanstack/react-query";
import { useMemo } from "react";
import { useHotkeys } from "react-hotkeys-hook";
import type { Swatch } from "../api/types";
import { useDragTool } from "../picture/drag-tool";
import { currentOf, useScreen } from "../shell/store";
import { isForThePage } from "../ui/keys";
import { type Bench, shownNow } from "./context";
import { renameSelected } from "./focus";
import { runStageKey, type Stage } from "./stages";

/** What the keys of the bench itself do. */
const OWN: [string, string][] = [
  ["← →", "go along the strip; with Shift, select along the way"],
  ["Home, End", "first and last swatch"],
  ["Ctrl ← →", "move the selected swatches"],
  ["Space", "lift them; arrow keys carry, Space puts down, Escape back"],
  ["Ctrl A", "select all"],
  ["Ctrl C, X, V", "copy, cut, paste the selected swatches"],
  ["Enter or F2", "rename the swatch; Enter goes on to the next"],
  ["L", "lock or unlock"],
  ["D", "duplicate"],
  ["Delete", "delete"],
  ["Ctrl Z, Ctrl Shift Z", "undo, redo"],
  ["K, Escape", "keep a preview, put it back"],
  ["+ − 0", "zoom in, out, fit"],
  ["F, held", "flicker to the original"],
  ["O", "outline the selected swatches in the picture"],
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

/** What each key does, by its name in the notation of react-hotkeys-hook. */
function tableOf(bench: Bench, stages: readonly Stage[], shown: () => Swatch[]): Record<string, () => void> {
  const { commands, view } = bench;
  const onSelected = (run: (ids: string[]) => void) => () => {
    const { selected } = useScreen.getState();
    if (selected.length > 0) run(selected);
  };
  const erase = onSelected((ids) => void commands.operate({ kind: "delete_swatches", ids }));
  const table: Record<string, () => void> = {
    "mod+z": () => void commands.change({ kind: "undo" }),
    "mod+shift+z": () => void commands.change({ kind: "redo" }),
    "mod+y": () => void commands.change({ kind: "redo" }),
    "mod+a": () => {
      const ids = shown().map((swatch) => swatch.id);
      const { select, ...screen } = useScreen.getState();
      // Nothing scrolls away: what one was at stays that.
      const at = currentOf(screen);
      select(ids, at && ids.includes(at) ? at : ids[0]);
    },
    k: () => view.getState().draft && void commands.keep(),
    escape: () => view.getState().draft && commands.putBack(),
    delete: erase,
    backspace: erase,
    d: onSelected((ids) => void commands.operate({ kind: "duplicate_swatches", ids })),
    l: onSelected((ids) => {
      const { selection } = useScreen.getState();
      const locked = shown().some((swatch) => selection.has(swatch.id) && !swatch.locked);
      void commands.operate({ kind: "lock_swatches", ids, locked });
    }),
    o: () => {
      const { isOutlined, setOutlined } = useDragTool.getState();
      setOutlined(!isOutlined);
    },
    f2: onSelected(() => renameSelected()),
  };
  for (const [place, stage] of stages.entries()) {
    if (place < 9) table[place + 1] = () => useScreen.getState().setStage(stage.id);
    for (const entry of stage.keys) table[entry.key] = () => runStageKey(stages, entry.id);
  }
  return table;
}

/** Keys whose usual meaning in a browser would be in the way. */
const TAKEN = new Set(["mod+z", "mod+shift+z", "mod+y", "mod+a", "delete", "backspace", "f2"]);

/** Keys that work anywhere on the bench, but not while something is being typed. */
export function useBenchKeys(bench: Bench, stages: readonly Stage[]) {
  const queries = useQueryClient();
  const table = useMemo(
    () => tableOf(bench, stages, () => shownNow(queries, bench)),
    [bench, stages, queries],
  );
  const ofStages = useMemo(
    () => new Set(stages.flatMap((stage) => stage.keys.map(({ key }) => key))),
    [stages],
  );
  useHotkeys(
    Object.keys(table),
    (_, { hotkey }) => table[hotkey]?.(),
    {
      useKey: true,
      enableOnFormTags: true,
      enableOnContentEditable: true,
      ignoreEventWhen: (event) => !isForThePage(event),
      preventDefault: (_, { hotkey }) => TAKEN.has(hotkey) || ofStages.has(hotkey),
    },
    [table, ofStages],
  );
}
