import { Lock } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import { useBench } from "../../bench/context";
import { useScreen } from "../../shell/store";
import { TextButton } from "../../ui/button";
import { NameField } from "../../ui/name-field";
import { Sentence } from "../../ui/sentence";

const ROW_PX = 34;
const SPARE = 8;

/** The palette as a list: names are typed one after the other. */
export function ArrangeStage() {
  const { shown, groups, operate } = useBench();
  const { selected, select, hover, setStage } = useScreen();
  const box = useRef<HTMLDivElement>(null);
  const [view, setView] = useState({ top: 0, height: 600 });
  const names = new Map(groups.map((group) => [group.id, group.name]));
  const chosen = new Set(selected);
  const wanted = useRef<number | null>(null);
  useEffect(() => {
    if (wanted.current === null) return;
    box.current?.querySelector<HTMLElement>(`[data-mark="name-${wanted.current}"]`)?.focus();
    wanted.current = null;
  });
  useEffect(() => {
    if (box.current) setView((before) => ({ ...before, height: box.current?.clientHeight ?? 600 }));
  }, []);
  const goTo = (place: number) => {
    const next = shown[(place + shown.length) % shown.length];
    if (!next) return;
    const index = (place + shown.length) % shown.length;
    wanted.current = index;
    const list = box.current;
    if (list) {
      const top = index * ROW_PX;
      if (top < list.scrollTop || top + ROW_PX > list.scrollTop + list.clientHeight)
        list.scrollTop = top - 80;
    }
    select([next.id]);
  };
  const from = Math.max(0, Math.floor(view.top / ROW_PX) - SPARE);
  const to = Math.min(shown.length, Math.ceil((view.top + view.height) / ROW_PX) + SPARE);
  if (shown.length === 0) {
    return (
      <p className="m-auto max-w-sm text-center text-quiet">
        There is nothing to arrange yet.{" "}
        <TextButton className="text-ink underline" onClick={() => setStage("gather")}>
          Type some colors first
        </TextButton>
      </p>
    );
  }
  return (
    <>
      <Sentence label="What this stage does">
        Name each swatch for the part it paints; <strong>Enter</strong> goes on to the next. Drag in the strip
        to move.
      </Sentence>
      <div
        ref={box}
        className="mt-2 min-h-0 grow overflow-y-auto"
        onScroll={(event) =>
          setView({ top: event.currentTarget.scrollTop, height: event.currentTarget.clientHeight })
        }
      >
        <table className="w-full border-collapse text-[13px]">
          <caption className="sr-only">Swatches</caption>
          <thead className="sticky top-0 z-10 bg-ground text-left text-quiet">
            <tr className="h-7">
              <th className="w-12 pr-3 text-right font-normal">Index</th>
              <th className="w-24 font-normal">Color</th>
              <th className="font-normal">Name</th>
              <th className="w-28 font-normal">Group</th>
              <th className="w-20 font-normal">Hex</th>
              <th className="w-36 font-normal">OKLCh</th>
              <th className="w-16 text-right font-normal">Share</th>
            </tr>
          </thead>
          <tbody>
            {from > 0 && <tr style={{ height: from * ROW_PX }} />}
            {shown.slice(from, to).map((swatch, step) => {
              const place = from + step;
              return (
                <tr
                  key={swatch.id}
                  className={`border-t border-line ${chosen.has(swatch.id) ? "bg-raised font-semibold" : ""}`}
                  style={{ height: ROW_PX }}
                  onPointerEnter={() => hover(swatch.id)}
                  onPointerLeave={() => hover(null)}
                >
                  <td className="pr-3 text-right">
                    <button
                      type="button"
                      aria-label={`Select swatch ${place}`}
                      className="min-h-6 min-w-6 text-right"
                      onClick={(event) =>
                        event.ctrlKey || event.metaKey
                          ? select([...selected, swatch.id])
                          : select([swatch.id])
                      }
                    >
                      {place}
                    </button>
                  </td>
                  <td>
                    <span
                      className={`flex h-6 w-20 items-center justify-end pr-1.5 ${swatch.alpha === 0 ? "checkered" : ""}`}
                      style={swatch.alpha === 0 ? undefined : { background: swatch.hex }}
                    >
                      {swatch.locked && (
                        <Lock
                          size={13}
                          aria-label="Locked"
                          color={swatch.oklch[0] > 0.62 ? "#000" : "#fff"}
                        />
                      )}
                    </span>
                  </td>
                  <td className="pr-4">
                    <NameField
                      mark={`name-${place}`}
                      label={`Name of swatch ${place}`}
                      value={swatch.name}
                      onRename={(name) => void operate({ kind: "rename_swatch", id: swatch.id, name })}
                      onNext={() => goTo(place + 1)}
                      className="w-full text-[14px]"
                    />
                  </td>
                  <td className="truncate">{swatch.group ? names.get(swatch.group) : ""}</td>
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
                </tr>
              );
            })}
            {to < shown.length && <tr style={{ height: (shown.length - to) * ROW_PX }} />}
          </tbody>
        </table>
      </div>
    </>
  );
}
