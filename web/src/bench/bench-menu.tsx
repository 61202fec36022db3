import { useQueryClient } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { useDragTool } from "../picture/drag-tool";
import { useScreen } from "../shell/store";
import { MenuArea, type MenuEntry } from "../ui/menu";
import { useClip } from "./clip";
import { linkOf, shownNow, useBench, useCommands, usePalette } from "./context";
import { renameSelected } from "./focus";
import { runStageKey, useStages } from "./stages";
import { copySelected, pasteClip } from "./use-clipboard";

/** The menus of a bench: of the swatches wherever they stand, of the picture, of kept ramps. */
export function BenchMenu({ children }: { children: ReactNode }) {
  const bench = useBench();
  const queries = useQueryClient();
  const stages = useStages();
  const palette = usePalette();
  const { operate, change, settle } = useCommands();

  const ofSwatches = (): MenuEntry[] => {
    const { selected, selection, setInk, setGround } = useScreen.getState();
    const shown = shownNow(queries, bench);
    const chosen = shown.filter((swatch) => selection.has(swatch.id));
    const [one] = chosen;
    if (!one) return [];
    const several = chosen.length > 1;
    const locked = chosen.some((swatch) => !swatch.locked);
    const { clip } = useClip.getState();
    const hex = (chosen.at(-1) ?? one).hex.slice(0, 7);
    return [
      {
        label: several ? `Copy ${chosen.length} swatches` : "Copy",
        keys: "Ctrl C",
        run: () => void copySelected(queries, bench),
      },
      {
        label: "Cut",
        keys: "Ctrl X",
        run: () =>
          void copySelected(queries, bench).then((copied) => {
            if (copied) void operate({ kind: "delete_swatches", ids: copied.ids });
          }),
      },
      {
        label: clip ? `Paste ${clip.ids.length} from “${clip.name}”` : "Paste",
        keys: "Ctrl V",
        disabled: clip === null,
        run: () => clip && void pasteClip(queries, bench, clip),
      },
      null,
      { label: "Rename", keys: "F2", disabled: several, run: () => renameSelected() },
      {
        label: locked ? "Lock" : "Unlock",
        keys: "L",
        run: () => void operate({ kind: "lock_swatches", ids: selected, locked }),
      },
      { label: "Group …", keys: "G", run: () => runStageKey(stages, "group-selected") },
      { label: "Merge …", keys: "M", disabled: !several, run: () => runStageKey(stages, "merge-selected") },
      null,
      { label: "Use as ink", run: () => setInk(hex) },
      { label: "Use as ground", run: () => setGround(hex) },
      null,
      {
        label: "Duplicate",
        keys: "D",
        run: () => void operate({ kind: "duplicate_swatches", ids: selected }),
      },
      {
        label: "Delete",
        keys: "Delete",
        run: () => void operate({ kind: "delete_swatches", ids: selected }),
      },
    ];
  };
  const ofPicture = (): MenuEntry[] => {
    const link = linkOf(palette, bench.view.getState().looked);
    const { isOutlined, setOutlined } = useDragTool.getState();
    return [
      { label: "Pick colors from a picture", keys: "P", run: () => runStageKey(stages, "pick-from-picture") },
      {
        label: isOutlined ? "Do not outline what is selected" : "Outline what is selected",
        keys: "O",
        run: () => setOutlined(!isOutlined),
      },
      ...(link
        ? [
            {
              label: `Take ${link.picture.name} off the palette`,
              run: () =>
                void settle().then((settled) => {
                  if (settled) void change({ kind: "unlink", picture: link.picture.id });
                }),
            },
          ]
        : []),
    ];
  };
  const ofRamp = (id: string): MenuEntry[] => {
    const place = palette.ramps.findIndex((ramp) => ramp.id === id);
    if (place < 0) return [];
    return [
      {
        label: "Move left",
        disabled: place === 0,
        run: () => void operate({ kind: "move_ramp", id, to: place - 1 }),
      },
      {
        label: "Move right",
        disabled: place === palette.ramps.length - 1,
        run: () => void operate({ kind: "move_ramp", id, to: place + 1 }),
      },
      null,
      { label: "Remove", run: () => void operate({ kind: "remove_ramp", id }) },
    ];
  };
  const entriesOf = (target: HTMLElement): MenuEntry[] => {
    const ramp = target.closest<HTMLElement>("[data-ramp]")?.dataset.ramp;
    if (ramp) return ofRamp(ramp);
    const id = target.closest<HTMLElement>("[data-swatch]")?.dataset.swatch;
    const { selection, select } = useScreen.getState();
    if (id) {
      // What is pressed is what the menu is about: alone, unless it is one of several that are selected.
      if (!selection.has(id)) select([id]);
      return ofSwatches();
    }
    return target.closest("[data-picture]") ? [...ofSwatches(), null, ...ofPicture()] : [];
  };
  return (
    <MenuArea label="What can be done here" entriesOf={entriesOf}>
      {children}
    </MenuArea>
  );
}
