import type { Swatch } from "../api/types";
import type { Modifiers } from "../picture/use-gestures";
import { useScreen } from "../shell/store";

/** Select a swatch that was pressed, in the strip or in a picture: alone, with Shift up to it, with Ctrl it more or it less. */
export function pressSwatch(shown: readonly Swatch[], id: string, event: Modifiers) {
  const { selected, selection, anchor, select } = useScreen.getState();
  if (event.shiftKey) {
    const start = shown.findIndex((swatch) => swatch.id === (anchor ?? id));
    const end = shown.findIndex((swatch) => swatch.id === id);
    const run = shown.slice(Math.min(start, end), Math.max(start, end) + 1);
    select(
      run.map((swatch) => swatch.id),
      anchor,
    );
  } else if (event.ctrlKey || event.metaKey)
    select(selection.has(id) ? selected.filter((other) => other !== id) : [...selected, id], id);
  else select([id], id);
}

/** Select several at once: alone, with Shift as well as what is selected, with Ctrl each of them more or less. */
export function pressSeveral(ids: readonly string[], event: Modifiers) {
  const { selected, selection, select } = useScreen.getState();
  const others = selected.filter((id) => !ids.includes(id));
  if (event.ctrlKey || event.metaKey) select([...others, ...ids.filter((id) => !selection.has(id))]);
  else if (event.shiftKey) select([...others, ...ids]);
  else if (ids.length > 0) select([...ids]);
}
