/** How long a marked part is waited for: its stage may have to be fetched first. */
const PATIENCE_MS = 10_000;

/** Whether a part can take a press: a button of a stage that has just come may not know yet what is selected. */
const canBePressed = (part: HTMLElement) => !(part instanceof HTMLButtonElement && part.disabled);

/**
 * Move the focus to a marked part of the screen once it is there, though it be loaded first; `press` also presses it.
 * A key or a press of somebody who does not wait for it ends it.
 */
export function focusMark(mark: string, press = false) {
  const since = performance.now();
  const gone = new AbortController();
  const look = () => {
    if (gone.signal.aborted) return;
    const part = document.querySelector<HTMLElement>(`[data-mark="${mark}"]`);
    if (part && (!press || canBePressed(part))) {
      gone.abort();
      part.focus();
      if (press) part.click();
    } else if (performance.now() - since < PATIENCE_MS) requestAnimationFrame(look);
    else gone.abort();
  };
  requestAnimationFrame(() => {
    for (const kind of ["keydown", "pointerdown"])
      window.addEventListener(kind, () => gone.abort(), { capture: true, signal: gone.signal });
    look();
  });
}

/** Whether nothing has the focus. */
export const isFocusNowhere = () =>
  document.activeElement === null || document.activeElement === document.body;

/**
 * For panels that close: the focus goes back to what opened them, unless somebody has taken it meanwhile. Hands are faster than the
 * moment after which it would go back, and what they have opened would close by that.
 */
export function giveFocusBack(event: Event) {
  if (!isFocusNowhere()) event.preventDefault();
}
