import { useState } from "react";
import { selectByRule } from "../../api/ask-once";
import type { Operation } from "../../api/types";
import { inWords } from "../../api/words";
import { useCommands, useMenus, usePalette, useShown } from "../../bench/context";
import { useScreenParts } from "../../shell/store";
import { Button, TextButton } from "../../ui/button";
import { ActionPanel } from "../../ui/sentence";
import { GroupPanel, MergePanel } from "./panels";

const FIELD = "h-7 min-w-0 grow border-b border-ink bg-transparent";

function Row({ children, onSubmit }: { children: React.ReactNode; onSubmit: () => void }) {
  return (
    <form
      className="flex items-center gap-2 border-t border-line py-2 first:border-0 first:pt-0"
      onSubmit={(event) => {
        event.preventDefault();
        onSubmit();
      }}
      onKeyDown={(event) => event.key !== "Escape" && event.stopPropagation()}
    >
      {children}
    </form>
  );
}

/** Select by rule; all, none and the rest are rules as well. */
function SelectPanel() {
  const palette = usePalette();
  const shown = useShown();
  const menus = useMenus();
  const { selected, selection, select, say } = useScreenParts("selected", "selection", "select", "say");
  const [tolerance, setTolerance] = useState(5);
  const [tag, setTag] = useState("");
  const take = (ids: string[], close: () => void) => {
    select(ids);
    close();
  };
  const byRule = async (rule: string, close: () => void) => {
    try {
      const ids = await selectByRule(palette.id, { rule, ids: selected, tolerance });
      if (ids.length === 0) say("No swatch is like that.");
      else take(ids, close);
    } catch (error) {
      say(inWords(error), { kind: "wrong" });
    }
  };
  const entry =
    "w-full rounded px-1.5 py-1 text-left hover:bg-ground disabled:text-quiet disabled:hover:bg-transparent";
  return (
    <ActionPanel label="Select …">
      {(close) => (
        <>
          <div className="mb-1 flex gap-1 border-b border-line pb-1">
            <TextButton
              onClick={() =>
                take(
                  shown.map((swatch) => swatch.id),
                  close,
                )
              }
              title="Ctrl A"
            >
              All
            </TextButton>
            <TextButton
              onClick={() =>
                take(
                  shown.filter((swatch) => !selection.has(swatch.id)).map((swatch) => swatch.id),
                  close,
                )
              }
            >
              All others
            </TextButton>
          </div>
          <ul className="m-0 grid list-none gap-0.5 p-0" aria-label="Selection rules">
            {menus.select_rules.map((rule) => (
              <li key={rule.id}>
                <button
                  type="button"
                  className={entry}
                  disabled={rule.needs.includes("swatch") && selected.length === 0}
                  onClick={() => void byRule(rule.id, close)}
                >
                  <span className="block font-semibold">{rule.label}</span>
                  <span className="block text-small text-quiet">{rule.use}</span>
                </button>
                {rule.needs.includes("tolerance") && (
                  <label className="flex items-center gap-2 px-1.5 pb-1 text-small text-quiet">
                    within ΔE
                    <input
                      type="number"
                      aria-label="Tolerance of the selection"
                      min={0}
                      max={100}
                      step={0.5}
                      value={tolerance}
                      className="w-14 border-b border-ink bg-transparent text-right text-ink"
                      onChange={(event) =>
                        setTolerance(Math.min(100, Math.max(0, Number(event.target.value))))
                      }
                    />
                  </label>
                )}
              </li>
            ))}
          </ul>
          <Row
            onSubmit={() => {
              const wanted = tag.trim().toLowerCase();
              const found = shown.filter((swatch) =>
                [swatch.name, ...swatch.tags].some((word) => word.toLowerCase().includes(wanted)),
              );
              if (wanted && found.length)
                take(
                  found.map((swatch) => swatch.id),
                  close,
                );
              else say(`No name or tag holds “${tag.trim()}”.`);
            }}
          >
            <input
              aria-label="Name or tag"
              placeholder="name or tag holds …"
              className={FIELD}
              value={tag}
              onChange={(event) => setTag(event.target.value)}
            />
            <Button type="submit">Select</Button>
          </Row>
        </>
      )}
    </ActionPanel>
  );
}

/** Names for many at once. */
function NamesPanel() {
  const shown = useShown();
  const { operate } = useCommands();
  const { selected } = useScreenParts("selected");
  const [stem, setStem] = useState("");
  const [start, setStart] = useState(1);
  const [find, setFind] = useState("");
  const [put, setPut] = useState("");
  const ids = selected.length > 1 ? selected : null;
  const whose = ids ? `${ids.length} selected` : `all ${shown.length}`;
  const make = async (operation: Operation, close: () => void) => {
    if (await operate(operation)) close();
  };
  return (
    <ActionPanel label="Names …">
      {(close) => (
        <>
          <p className="mb-2 text-small text-quiet">Of {whose} swatches</p>
          <Row onSubmit={() => void make({ kind: "name_series", ids, stem, start }, close)}>
            <input
              aria-label="Stem of the names"
              placeholder="Wing"
              className={FIELD}
              value={stem}
              onChange={(event) => setStem(event.target.value)}
            />
            <input
              type="number"
              aria-label="First number"
              min={0}
              className="h-7 w-14 border-b border-ink bg-transparent text-right"
              value={start}
              onChange={(event) => setStart(Math.max(0, Math.round(Number(event.target.value))))}
            />
            <Button type="submit" disabled={!stem.trim()}>
              Number
            </Button>
          </Row>
          <Row
            onSubmit={() => void make({ kind: "replace_in_names", ids, find, put, match_case: false }, close)}
          >
            <input
              aria-label="Find in names"
              placeholder="find"
              className={FIELD}
              value={find}
              onChange={(event) => setFind(event.target.value)}
            />
            <input
              aria-label="Put in its place"
              placeholder="put"
              className={FIELD}
              value={put}
              onChange={(event) => setPut(event.target.value)}
            />
            <Button type="submit" disabled={!find}>
              Replace
            </Button>
          </Row>
          <Row onSubmit={() => void make({ kind: "suggest_names", ids }, close)}>
            <span className="grow text-small text-quiet">Plain words for lightness, chroma and hue</span>
            <Button type="submit">Suggest</Button>
          </Row>
        </>
      )}
    </ActionPanel>
  );
}

/** To an index, swapped, turned round; and how many places there are. */
function PlacesPanel() {
  const palette = usePalette();
  const shown = useShown();
  const { operate } = useCommands();
  const { selected } = useScreenParts("selected");
  const [to, setTo] = useState(0);
  const [slots, setSlots] = useState(palette.slots ?? Math.max(16, shown.length));
  const make = async (operation: Operation, close: () => void) => {
    if (await operate(operation)) close();
  };
  const count = selected.length;
  return (
    <ActionPanel label="Places …">
      {(close) => (
        <>
          <Row onSubmit={() => void make({ kind: "move_swatches", ids: selected, to }, close)}>
            <span className="grow text-small">
              Move {count === 1 ? "the selected swatch" : `${count} swatches`} to
            </span>
            <input
              type="number"
              aria-label="Index to move to"
              min={0}
              className="h-7 w-16 border-b border-ink bg-transparent text-right"
              value={to}
              onChange={(event) => setTo(Math.max(0, Math.round(Number(event.target.value))))}
            />
            <Button type="submit" disabled={count === 0}>
              Move
            </Button>
          </Row>
          <Row onSubmit={() => void make({ kind: "swap_swatches", ids: selected }, close)}>
            <span className="grow text-small">Two selected swatches change places</span>
            <Button type="submit" disabled={count !== 2}>
              Swap
            </Button>
          </Row>
          <Row
            onSubmit={() => void make({ kind: "reverse_swatches", ids: count > 1 ? selected : null }, close)}
          >
            <span className="grow text-small">Turn {count > 1 ? "the selected" : "all"} round</span>
            <Button type="submit">Reverse</Button>
          </Row>
          <Row onSubmit={() => void make({ kind: "set_slots", slots }, close)}>
            <span className="grow text-small">A fixed number of places, some may be empty</span>
            <input
              type="number"
              aria-label="Number of places"
              min={1}
              max={100000}
              className="h-7 w-16 border-b border-ink bg-transparent text-right"
              value={slots}
              onChange={(event) => setSlots(Math.max(1, Math.round(Number(event.target.value))))}
            />
            <Button type="submit">Fix</Button>
          </Row>
          {palette.slots !== null && (
            <>
              <Row onSubmit={() => void make({ kind: "pin_swatches", ids: selected, pinned: true }, close)}>
                <span className="grow text-small">Keep the selected at their places</span>
                <Button type="submit" disabled={count === 0}>
                  Pin
                </Button>
              </Row>
              <Row onSubmit={() => void make({ kind: "set_slots", slots: null }, close)}>
                <span className="grow text-small">Close up, without numbered places</span>
                <Button type="submit">Give up places</Button>
              </Row>
            </>
          )}
        </>
      )}
    </ActionPanel>
  );
}

/** What can be done with the selected swatches. */
export function Toolbar({ children }: { children?: React.ReactNode }) {
  const shown = useShown();
  const { operate } = useCommands();
  const { selected } = useScreenParts("selected");
  const count = selected.length;
  return (
    <div className="mb-1 flex min-h-8 flex-wrap items-center gap-0.5 text-small">
      <span className="mr-1 whitespace-nowrap text-quiet">
        <strong className="font-semibold text-ink">{count}</strong> of {shown.length} selected
      </span>
      <SelectPanel />
      <span className="mx-1 h-4 w-px bg-line" />
      <GroupPanel />
      <MergePanel />
      <NamesPanel />
      <PlacesPanel />
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
      <span className="grow" />
      {children}
    </div>
  );
}
