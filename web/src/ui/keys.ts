const passed = new WeakSet<Event>();

/** Say of a key pressed in a field that the field has no use for it, so that it counts as pressed on the page. */
export function passOn(event: Event) {
  passed.add(event);
}

/** Fields that something was typed into since they got the focus or took what was typed. */
const edited = new WeakSet<EventTarget>();
document.addEventListener("input", ({ target }) => target && edited.add(target), true);
for (const kind of ["focusin", "change"])
  document.addEventListener(kind, ({ target }) => target && edited.delete(target), true);
document.addEventListener(
  "submit",
  ({ target }) => {
    for (const field of (target as HTMLFormElement).elements) edited.delete(field);
  },
  true,
);

/** Letters mean nothing to a number, but for the one that stands before an exponent. */
const isLetter = (key: string) => /^\p{Letter}$/u.test(key) && key.toLowerCase() !== "e";

/**
 * Whether a field has no use for a key while nothing was typed into it that it has not taken: for the page's undo, and a number field
 * for letters. Who undoes right behind Enter means the step, and not the text of a panel that is about to close.
 */
function isNothingToField(event: KeyboardEvent, field: HTMLInputElement): boolean {
  if (edited.has(field) || event.altKey) return false;
  if (event.ctrlKey || event.metaKey) return /^[zy]$/i.test(event.key);
  return field.type === "number" && isLetter(event.key);
}

/** Keys that move a slider; it has no use for any other. */
const MOVES_SLIDER = /^(Arrow|Page|Home$|End$)/;

/** Fields that nothing is typed into. */
const CHOSEN = /^(radio|checkbox|range)$/;

/** Whether something is typed into a part of the page. */
export function isTypedInto(target: EventTarget | null): boolean {
  return (
    target instanceof HTMLElement &&
    (target.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName)) &&
    !CHOSEN.test((target as HTMLInputElement).type)
  );
}

/** Whether a key is for the page: not typed into a field, or passed on by it. */
export function isForThePage(event: KeyboardEvent): boolean {
  if (passed.has(event)) return true;
  if (event.defaultPrevented) return false;
  const { target } = event;
  if (target instanceof HTMLInputElement) {
    if (isNothingToField(event, target)) return true;
    if (target.type === "range" && MOVES_SLIDER.test(event.key)) return false;
  }
  return !isTypedInto(target);
}
