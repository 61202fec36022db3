import { Lock } from "lucide-react";
import { useEffect, useMemo, useRef, useState } from "react";
import type { Swatch } from "../../api/client";
import { useBench } from "../../bench/context";
import { focusMark } from "../../bench/keys";
import { useScreen } from "../../shell/store";
import { Button, TextButton } from "../../ui/button";
import { NameField } from "../../ui/name-field";
import { ActionPanel, Sentence } from "../../ui/sentence";

const ROW_PX = 34;
const AROUND = 12;

/** Make a group of the selected swatches. */
function GroupPanel() {
  const { operate } = useBench();
  const selected = useScreen((screen) => screen.selected);
  const [name, setName] = useState("");
  const make = async (close: () => void) => {
    if (await operate({ kind: "make_group", ids: selected, name })) {
      setName("");
      close();
    }
  };
  return (
    <ActionPanel label="Group …" mark="group-selected" disabled={selected.length === 0}>
      {(close) => (
        <form
          onSubmit={(event) => {
            event.preventDefault();
            void make(close);
          }}
        >
          <label className="mb-1 block text-[13px] text-quiet" htmlFor="group-name">
            Name of the group of {selected.length === 1 ? "this swatch" : `these ${selected.length} swatches`}
          </label>
          <div className="flex gap-2">
            <input
              id="group-name"
              value={name}
              placeholder="Wings"
              className="h-7 min-w-0 grow border-b border-ink bg-transparent"
              onChange={(event) => setName(event.target.value)}
              onKeyDown={(event) => event.key !== "Escape" && event.stopPropagation()}
            />
            <Button primary type="submit">
              Group
            </Button>
          </div>
          <p className="mt-2 text-[13px] text-quiet">They gather at the place of the first of them.</p>
        </form>
      )}
    </ActionPanel>
  );
}

/** Merge the selected swatches into one, seen in the strip and the picture before it is done. */
function MergePanel() {
  const { menus, preview, draft, setDraft, discard, keep, problem } = useBench();
  const selected = useScreen((screen) => screen.selected);
  const [rule, setRule] = useState(menus.merge_rules[0]?.id ?? "most-used");
  const ids = useRef(selected);
  const tryOut = (next: string) => {
    setRule(next);
    setDraft({ kind: "step", operation: { kind: "merge_swatches", ids: ids.current, keep: next } });
  };
  const survivors = preview?.kind === "step" ? new Set(Object.values(preview.proposal.successors)) : null;
  const survivor =
    preview?.kind === "step" ? preview.proposal.swatches.find((swatch) => survivors?.has(swatch.id)) : null;
  return (
    <ActionPanel
      label="Merge …"
      mark="merge-selected"
      disabled={selected.length < 2 && !draft}
      onOpen={() => {
        ids.current = selected;
        tryOut(rule);
      }}
      onClose={discard}
    >
      {(close) => (
        <>
          <fieldset className="m-0 grid gap-1 border-0 p-0">
            <legend className="mb-1 text-[13px] text-quiet">
              Merge {ids.current.length} into one, keeping
            </legend>
            {menus.merge_rules.map((choice) => (
              <label
                key={choice.id}
                className="grid cursor-pointer grid-cols-[20px_1fr] rounded px-1.5 py-1 hover:bg-ground"
              >
                <input
                  type="radio"
                  name="merge-rule"
                  className="mt-1 accent-ink"
                  checked={rule === choice.id}
                  onChange={() => tryOut(choice.id)}
                />
                <span>
                  <span className="block font-semibold">{choice.label}</span>
                  <span className="block text-[13px] text-quiet">{choice.use}</span>
                </span>
              </label>
            ))}
          </fieldset>
          {problem && (
            <p role="alert" className="mt-2 text-[13px] font-semibold">
              {problem}
            </p>
          )}
          <div className="mt-3 flex items-center gap-2">
            {survivor && (
              <span className="size-7" style={{ background: survivor.hex }} title={survivor.hex} />
            )}
            <span className="min-w-0 grow truncate text-[13px]">{survivor?.name}</span>
            <Button
              primary
              disabled={!survivor}
              onClick={async () => {
                const id = survivor?.id;
                if (await keep()) {
                  if (id) useScreen.getState().select([id]);
                  close();
                }
              }}
            >
              Merge
            </Button>
          </div>
        </>
      )}
    </ActionPanel>
  );
}

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

/** Names in a row, virtualized: only rows near the view are drawn. */
export function ListView() {
  const { shown, groups, operate } = useBench();
  const { selected, select, hover, anchor } = useScreen();
  const box = useRef<HTMLDivElement>(null);
  const [view, setView] = useState({ top: 0, height: 600 });
  const from = Math.max(0, Math.floor(view.top / ROW_PX) - AROUND);
  const rows = useMemo(() => rowsOf(shown, groups.length > 0), [shown, groups]);
  const to = Math.min(rows.length, Math.ceil((view.top + view.height) / ROW_PX) + AROUND);
  const names = new Map(groups.map((group) => [group.id, group.name]));
  const chosen = new Set(selected);
  const goTo = (place: number) => {
    const next = shown[place];
    if (!next) return;
    select([next.id]);
    focusMark(`name-${place}`);
  };
  const current = rows.findIndex((row) => row.kind === "swatch" && shown[row.place]?.id === selected.at(-1));
  useEffect(() => {
    const scroll = box.current;
    if (!scroll || current < 0) return;
    const top = current * ROW_PX;
    if (top < scroll.scrollTop) scroll.scrollTop = top;
    else if (top + 3 * ROW_PX > scroll.scrollTop + scroll.clientHeight)
      scroll.scrollTop = top + 3 * ROW_PX - scroll.clientHeight;
  }, [current]);
  const pick = (id: string, event: { shiftKey: boolean; ctrlKey: boolean; metaKey: boolean }) => {
    if (event.shiftKey) {
      const start = shown.findIndex((swatch) => swatch.id === (anchor ?? id));
      const end = shown.findIndex((swatch) => swatch.id === id);
      const range = shown.slice(Math.min(start, end), Math.max(start, end) + 1);
      select(
        range.map((swatch) => swatch.id),
        anchor,
      );
    } else if (event.ctrlKey || event.metaKey)
      select(chosen.has(id) ? selected.filter((other) => other !== id) : [...selected, id], id);
    else select([id]);
  };
  const count = selected.length;
  return (
    <>
      <Sentence label="What this view does">
        Name each swatch for the part it paints; <strong>Enter</strong> goes on to the next.
      </Sentence>
      <div className="mb-1 flex min-h-8 items-center gap-1 text-[13px]">
        <span className="mr-2 text-quiet">
          <strong className="font-semibold text-ink">{count}</strong> of {shown.length} selected
        </span>
        <GroupPanel />
        <MergePanel />
        <TextButton
          disabled={count === 0}
          onClick={() => void operate({ kind: "duplicate_swatches", ids: selected })}
        >
          Duplicate
        </TextButton>
        <TextButton
          disabled={count === 0}
          onClick={() => void operate({ kind: "delete_swatches", ids: selected })}
        >
          Delete
        </TextButton>
        <span className="mx-2 h-4 w-px bg-line" />
        <TextButton onClick={() => select(shown.map((swatch) => swatch.id))} title="Ctrl A">
          Select all
        </TextButton>
      </div>
      <div
        ref={box}
        className="min-h-0 grow overflow-y-auto"
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
              <th className="w-20 font-normal">Hex</th>
              <th className="w-36 font-normal">OKLCh</th>
              <th className="w-16 text-right font-normal">Share</th>
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
                    <td colSpan={5}>
                      {group ? (
                        <span className="flex items-center gap-1">
                          <NameField
                            label={`Name of the group ${names.get(group)}`}
                            value={names.get(group) ?? ""}
                            onRename={(name) => void operate({ kind: "rename_group", id: group, name })}
                            className="field-sizing-content max-w-80 min-w-16 font-semibold"
                          />
                          <TextButton
                            className="text-quiet"
                            onClick={() =>
                              select(shown.filter((other) => other.group === group).map((other) => other.id))
                            }
                          >
                            Select
                          </TextButton>
                          <TextButton
                            className="text-quiet"
                            aria-label={`Dissolve the group ${names.get(group)}`}
                            onClick={() => void operate({ kind: "dissolve_group", id: group })}
                          >
                            Dissolve
                          </TextButton>
                        </span>
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
                <tr
                  key={swatch.id}
                  aria-selected={chosen.has(swatch.id)}
                  className={`border-t border-line ${chosen.has(swatch.id) ? "bg-raised" : ""}`}
                  style={{ height: ROW_PX }}
                  onPointerEnter={() => hover(swatch.id)}
                  onPointerLeave={() => hover(null)}
                >
                  <td className="pr-3 text-right">
                    <button
                      type="button"
                      aria-label={`Select swatch ${place}`}
                      className={`min-h-6 min-w-6 text-right ${chosen.has(swatch.id) ? "font-bold" : ""}`}
                      onClick={(event) => pick(swatch.id, event)}
                    >
                      {place}
                    </button>
                  </td>
                  <td>
                    <button
                      type="button"
                      tabIndex={-1}
                      aria-label={`Select ${swatch.name}`}
                      onClick={(event) => pick(swatch.id, event)}
                      className={`flex h-6 w-20 items-center justify-end pr-1.5 ${swatch.alpha === 0 ? "checkered" : ""} ${
                        chosen.has(swatch.id) ? "shadow-[0_0_0_2px_var(--raised),0_0_0_3.5px_var(--ink)]" : ""
                      }`}
                      style={swatch.alpha === 0 ? undefined : { background: swatch.hex }}
                    >
                      {swatch.locked && (
                        <Lock
                          size={13}
                          aria-label="Locked"
                          color={swatch.oklch[0] > 0.62 ? "#000" : "#fff"}
                        />
                      )}
                    </button>
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
            {to < rows.length && <tr style={{ height: (rows.length - to) * ROW_PX }} />}
          </tbody>
        </table>
      </div>
    </>
  );
}
