import type { KeyboardEvent } from "react";

interface Row {
  /** What the focus goes through, as a selector within the part that hears the keys. */
  items: string;
  /** The keys that go back and on. */
  keys: readonly [back: string, on: string];
  /** Whether the last is followed by the first. */
  isRound?: boolean;
}

/**
 * Move the focus through a row of items while the key is being heard, as a handler of `onKeyDownCapture`.
 *
 * The library moves it a moment later, and where the machine is busy the next key comes before that moment: the second of two
 * arrows and the Enter after it meant the item of the first.
 */
export function stepFocus(event: KeyboardEvent<HTMLElement>, { items, keys, isRound = false }: Row) {
  if (event.ctrlKey || event.metaKey || event.altKey || event.shiftKey) return;
  const all = [...event.currentTarget.querySelectorAll<HTMLElement>(items)];
  const at = all.indexOf(document.activeElement as HTMLElement);
  const last = all.length - 1;
  const to = {
    [keys[0]]: at < 0 ? last : at > 0 ? at - 1 : isRound ? last : 0,
    [keys[1]]: at < last ? at + 1 : isRound ? 0 : last,
    Home: 0,
    End: last,
  }[event.key];
  if (to === undefined) return;
  event.preventDefault();
  event.stopPropagation();
  all[to]?.focus();
}
