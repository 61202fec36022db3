import { useState } from "react";
import { useCommands, usePalette, useShown } from "../../bench/context";
import { useScreen } from "../../shell/store";
import { Button } from "../../ui/button";
import { NumberWord } from "../../ui/sentence";
import type { RampWork } from "./use-ramp";

/** Put colors between the selected swatches, the way the ramp goes. */
export function FillPanel({ work, close }: { work: RampWork; close: () => void }) {
  const palette = usePalette();
  const shown = useShown();
  const { operate, change } = useCommands();
  const selection = useScreen((screen) => screen.selection);
  const select = useScreen((screen) => screen.select);
  const say = useScreen((screen) => screen.say);
  const [count, setCount] = useState(3);
  const picked = shown.filter((swatch) => selection.has(swatch.id));
  const ids = picked.map((swatch) => swatch.id);
  const fill = async (wanted: number | null) => {
    const known = new Set(palette.swatches.map((swatch) => swatch.id));
    const changed = await operate({
      kind: "fill_between",
      ids,
      count: wanted,
      ramp: { ...work.recipe, stops: [], steps: null, purpose: "any" },
    });
    if (!changed) return;
    const made = changed.swatches.filter((swatch) => !known.has(swatch.id)).map((swatch) => swatch.id);
    say(`${made.length} swatches stand in between.`, {
      action: { label: "Undo", run: () => void change({ kind: "undo" }) },
    });
    select(made);
    close();
  };
  if (picked.length < 2)
    return (
      <p className="text-small">
        Select two swatches or more in the strip first (Ctrl-click, or Shift-click for all between). What is
        filled in goes the way that the ramp goes.
      </p>
    );
  return (
    <div className="grid gap-2">
      <p className="text-small text-quiet">
        Between {picked.length} selected swatches, from {picked[0]?.name} to {picked.at(-1)?.name}, by the
        way, spacing and curve of the ramp.
      </p>
      <p>
        <NumberWord
          label="Colors between each two"
          value={count}
          min={1}
          max={256}
          unit={() => "between each two"}
          hint="They stay in the group of both neighbors, where that is one."
          onChange={setCount}
        />
      </p>
      <div className="flex flex-wrap gap-2">
        <Button primary onClick={() => void fill(count)}>
          Put in {count * (picked.length - 1)} swatches
        </Button>
        {palette.slots !== null && <Button onClick={() => void fill(null)}>Fill the empty places</Button>}
      </div>
    </div>
  );
}
