/** Move the focus to a marked part of the screen once it is there, though it be loaded first; `press` also presses it. */
export function focusMark(mark: string, press = false, tries = 60) {
  requestAnimationFrame(() => {
    const part = document.querySelector<HTMLElement>(`[data-mark="${mark}"]`);
    if (!part && tries > 0) {
      focusMark(mark, press, tries - 1);
      return;
    }
    part?.focus();
    if (press) part?.click();
  });
}

/** Whether nothing has the focus. */
export const isFocusNowhere = () =>
  document.activeElement === null || document.activeElement === document.body;
