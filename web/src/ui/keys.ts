const passed = new WeakSet<Event>();

/** Say of a key pressed in a field that the field has no use for it, so that it counts as pressed on the page. */
export function passOn(event: Event) {
  passed.add(event);
}

/** Whether a key is for the page: not typed into a field, or passed on by it. */
export function isForThePage(event: KeyboardEvent): boolean {
  if (passed.has(event)) return true;
  if (event.defaultPrevented) return false;
  const { target } = event;
  return !(
    target instanceof HTMLElement &&
    (target.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName)) &&
    (target as HTMLInputElement).type !== "radio" &&
    (target as HTMLInputElement).type !== "checkbox"
  );
}
