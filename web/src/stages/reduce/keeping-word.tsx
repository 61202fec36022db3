import { useQueryClient } from "@tanstack/react-query";
import { Popover } from "radix-ui";
import type { Recipe } from "../../api/types";
import { useBench, useCommands, useShown } from "../../bench/context";
import { enter, NO_LINES, useLines } from "../../bench/lines";
import { EnteredLines, RefusedLines } from "../../bench/lines-shown";
import { Patch } from "../../lens/patch";
import { useScreen } from "../../shell/store";
import { Button } from "../../ui/button";
import { PanelWord } from "../../ui/sentence";
import type { Change } from "./recipe-sentence";

/** Locked swatches, and solid colors that must be there. */
export function KeepingWord({
  recipe,
  onChange,
  onPick,
}: {
  recipe: Recipe;
  onChange: Change;
  onPick: () => void;
}) {
  const queries = useQueryClient();
  const bench = useBench();
  const lines = useLines((state) => state.palettes[bench.id]) ?? NO_LINES;
  const put = useLines((state) => state.put);
  const shown = useShown();
  const { operate } = useCommands();
  const locked = shown.filter((swatch) => swatch.locked);
  const selected = useScreen((screen) => screen.selected);
  const solid = recipe.solid.length ? `, solid ${recipe.solid.join(" and ")}` : "";
  const turn = (name: "black" | "white") =>
    onChange({
      solid: recipe.solid.includes(name)
        ? recipe.solid.filter((other) => other !== name)
        : [...recipe.solid, name],
    });
  return (
    <PanelWord
      label="Locked swatches"
      text={`${locked.length === 0 ? "none" : locked.length} locked${solid}`}
    >
      {locked.length === 0 ? (
        <p className="mb-2">No swatch is locked. A locked color stays just as it is in the next reduction.</p>
      ) : (
        <ul className="m-0 mb-2 grid max-h-52 list-none gap-1 overflow-y-auto p-0">
          {locked.map((swatch) => (
            <li key={swatch.id} className="flex items-center gap-2">
              <Patch className="size-5 shrink-0" color={swatch.hex} />
              <span className="min-w-0 grow truncate">{swatch.name}</span>
              <button
                type="button"
                className="text-small font-semibold hover:underline"
                onClick={() => void operate({ kind: "lock_swatches", ids: [swatch.id], locked: false })}
              >
                Unlock
              </button>
            </li>
          ))}
        </ul>
      )}
      <input
        aria-label="Colors to keep"
        placeholder="Type a color to keep: Lamp #ffcc66"
        value={lines.keeping}
        spellCheck={false}
        className="mb-2 h-8 w-full rounded-sm border border-ink bg-raised px-2 placeholder:text-quiet"
        onChange={(event) => put(bench.id, () => ({ keeping: event.target.value }))}
        onKeyDown={(event) => {
          if (event.key !== "Enter" || event.nativeEvent.isComposing) return;
          put(bench.id, () => ({ keeping: "" }));
          enter(queries, bench, lines.keeping, { locked: true });
        }}
      />
      <EnteredLines entered={lines.entered.filter((line) => line.locked)} />
      <RefusedLines refused={lines.refused.filter((line) => line.locked)} />
      <div className="mt-2 flex flex-wrap gap-2">
        <Popover.Close asChild>
          <Button onClick={onPick}>Pick in the picture</Button>
        </Popover.Close>
        <Button
          disabled={selected.length === 0}
          onClick={() => void operate({ kind: "lock_swatches", ids: selected, locked: true })}
        >
          Lock the selected {selected.length === 1 ? "swatch" : `${selected.length} swatches`}
        </Button>
      </div>
      <div className="mt-3 flex gap-4 border-t border-line pt-2">
        {(["black", "white"] as const).map((name) => (
          <label key={name} className="flex items-center gap-2">
            <input
              type="checkbox"
              className="accent-ink"
              checked={recipe.solid.includes(name)}
              onChange={() => turn(name)}
            />
            solid {name}
          </label>
        ))}
      </div>
    </PanelWord>
  );
}
