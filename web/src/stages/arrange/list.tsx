import { useVirtualizer } from "@tanstack/react-virtual";
import { Lock } from "lucide-react";
import { memo, type RefObject, useEffect, useMemo, useRef } from "react";
import type { Swatch } from "../../api/types";
import { type Commands, useCommands, useGroups, useShown } from "../../bench/context";
import { pressSwatch } from "../../bench/select";
import { useLens } from "../../lens/lens";
import { currentOf, useScreen, useScreenParts } from "../../shell/store";
import { bringIntoView } from "../../ui/bring-into-view";
import { textOn } from "../../ui/css-color";
import { focusMark } from "../../ui/marks";
import { Measured } from "../../ui/measured";
import { NameField } from "../../ui/name-field";
import { Sentence } from "../../ui/sentence";
import { GroupWords } from "./group-words";
import { Toolbar } from "./toolbar";

const ROW_PX = 34;
const HEAD_PX = 28;
const AROUND = 12;

type Row = { kind: "group"; group: string | null } | { kind: "swatch"; place: number };

/** Swatches with a heading row before each group; all rows are equally high. */
function rowsOf(swatches: Swatch[], isGrouped: boolean): Row[] {
  const rows: Row[] = [];
  swatches.forEach((swatch, place) => {
    if (isGrouped && (place === 0 || swatches[place - 1]?.group !== swatch.group))
      rows.push({ kind: "group", group: swatch.group });
    rows.push({ kind: "swatch", place });
  });
  return rows;
}

interface Acts {
  pick: (id: string, event: { shiftKey: boolean; ctrlKey: boolean; metaKey: boolean }) => void;
  goTo: (place: number) => void;
  hover: (id: string | null) => void;
  operate: Commands["operate"];
}

/** One swatch; drawn again only when it or whether it is selected changes, so that many rows stay quick. */
const SwatchRow = memo(function SwatchRow({
  swatch,
  place,
  isChosen,
  acts,
}: {
  swatch: Swatch;
  place: number;
  isChosen: boolean;
  acts: RefObject<Acts>;
}) {
  const lens = useLens();
  return (
    <tr
      aria-selected={isChosen}
      className={`border-t border-line ${isChosen ? "bg-raised" : ""}`}
      style={{ height: ROW_PX }}
      data-swatch={swatch.id}
      onPointerEnter={() => acts.current.hover(swatch.id)}
      onPointerLeave={() => acts.current.hover(null)}
    >
      <td className="pr-3 text-right">
        <button
          type="button"
          aria-label={`Select swatch ${place}`}
          className={`min-h-6 min-w-6 text-right ${isChosen ? "font-bold" : ""}`}
          onClick={(event) => acts.current.pick(swatch.id, event)}
        >
          {swatch.slot ?? place}
        </button>
      </td>
      <td>
        <button
          type="button"
          tabIndex={-1}
          aria-label={`Select ${swatch.name}`}
          onClick={(event) => acts.current.pick(swatch.id, event)}
          className={`flex h-6 w-20 items-center justify-end pr-1.5 ${swatch.alpha === 0 ? "checkered" : ""} ${
            isChosen ? "shadow-[0_0_0_2px_var(--raised),0_0_0_3.5px_var(--ink)]" : ""
          }`}
          style={swatch.alpha === 0 ? undefined : { background: lens.css(swatch.hex) }}
        >
          {swatch.locked && <Lock size={13} aria-label="Locked" color={textOn(swatch.hex)} />}
        </button>
      </td>
      <td className="pr-4">
        <NameField
          mark={`name-${place}`}
          label={`Name of swatch ${place}`}
          value={swatch.name}
          onRename={(name) => void acts.current.operate({ kind: "rename_swatch", id: swatch.id, name })}
          onNext={() => acts.current.goTo(place + 1)}
          className="w-full text-body"
        />
      </td>
      <td>{swatch.hex}</td>
      <td className="whitespace-pre">
        {[
          swatch.oklch[0].toFixed(2),
          swatch.oklch[1].toFixed(3),
          swatch.oklch[2].toFixed(0).padStart(3, "\u2007"),
        ].join("   ")}
      </td>
      <td className="text-right">
        {swatch.coverage === null ? "" : `${(swatch.coverage * 100).toFixed(1)} %`}
      </td>
      <td className="max-w-24 truncate pl-4 text-quiet" title={swatch.note || undefined}>
        {[swatch.tags.join(", "), swatch.note ? "✎" : ""].filter(Boolean).join(" ")}
      </td>
    </tr>
  );
});

/** Names in a row, virtualized: only rows near the view are drawn. */
export function ListView() {
  const shown = useShown();
  const groups = useGroups();
  const { operate } = useCommands();
  const { selection, select, hover } = useScreenParts("selection", "select", "hover");
  const box = useRef<HTMLDivElement>(null);
  const rows = useMemo(() => rowsOf(shown, groups.length > 0), [shown, groups]);
  const virtualizer = useVirtualizer({
    count: rows.length,
    getScrollElement: () => box.current,
    estimateSize: () => ROW_PX,
    overscan: AROUND,
    paddingStart: HEAD_PX,
  });
  const drawn = virtualizer.getVirtualItems();
  const from = drawn[0]?.index ?? 0;
  const to = (drawn.at(-1)?.index ?? -1) + 1;
  const goTo = (place: number) => {
    const next = shown[place];
    if (!next) return;
    select([next.id]);
    focusMark(`name-${place}`);
  };
  const at = useScreen(currentOf);
  const current = rows.findIndex((row) => row.kind === "swatch" && shown[row.place]?.id === at);
  useEffect(() => {
    if (current >= 0) bringIntoView(virtualizer, current, { above: HEAD_PX, below: ROW_PX });
  }, [current, virtualizer]);
  const pick: Acts["pick"] = (id, event) => pressSwatch(shown, id, event);
  const acts = useRef<Acts>({ pick, goTo, hover, operate });
  acts.current = { pick, goTo, hover, operate };
  return (
    <>
      <Sentence label="What this view does">
        Name each swatch for the part it paints; <strong>Enter</strong> goes on to the next.
      </Sentence>
      <Toolbar />
      <div ref={box} className="min-h-0 grow overflow-y-auto">
        <Measured id="list">
          <table className="w-full table-fixed border-collapse text-small">
            <caption className="sr-only">Swatches</caption>
            <thead className="sticky top-0 z-10 bg-ground text-left text-quiet">
              <tr style={{ height: HEAD_PX }}>
                <th className="w-12 pr-3 text-right font-normal">Index</th>
                <th className="w-24 font-normal">Color</th>
                <th className="font-normal">Name</th>
                <th className="w-20 font-normal">Hex</th>
                <th className="w-36 font-normal">OKLCh</th>
                <th className="w-16 text-right font-normal">Share</th>
                <th className="w-24 pl-4 font-normal">Tags</th>
              </tr>
            </thead>
            <tbody>
              {from > 0 && <tr style={{ height: from * ROW_PX }} />}
              {rows.slice(from, to).map((row, step) => {
                if (row.kind === "group") {
                  const group = row.group;
                  return (
                    <tr
                      key={`group-${group ?? from + step}`}
                      className="border-t border-ink"
                      style={{ height: ROW_PX }}
                    >
                      <td />
                      <td colSpan={6}>
                        {group ? (
                          <GroupWords group={group} />
                        ) : (
                          <span className="text-quiet">in no group</span>
                        )}
                      </td>
                    </tr>
                  );
                }
                const place = row.place;
                const swatch = shown[place];
                if (!swatch) return null;
                return (
                  <SwatchRow
                    key={swatch.id}
                    swatch={swatch}
                    place={place}
                    isChosen={selection.has(swatch.id)}
                    acts={acts}
                  />
                );
              })}
              {to < rows.length && <tr style={{ height: (rows.length - to) * ROW_PX }} />}
            </tbody>
          </table>
        </Measured>
      </div>
    </>
  );
}
