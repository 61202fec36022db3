import type { Virtualizer } from "@tanstack/react-virtual";

/** How much of the view is covered at its two ends, or is to stay free there. */
interface Margins {
  above: number;
  below: number;
}

/**
 * Scroll until an entry of a virtual list is in view, by no more than it takes. The list's heights and where it is scrolled to are
 * known: asking the browser, as the library's own `scrollToIndex` does, would have it lay out everything once more, twice for each press.
 */
export function bringIntoView(
  virtualizer: Virtualizer<HTMLDivElement, Element>,
  index: number,
  { above, below }: Margins,
) {
  const { scrollElement, scrollRect, scrollOffset } = virtualizer;
  const entry = virtualizer.measurementsCache[index];
  if (!scrollElement || !scrollRect || !entry) return;
  const at = scrollOffset ?? 0;
  const last = Math.max(0, virtualizer.getTotalSize() - scrollRect.height);
  const least = Math.min(last, Math.max(0, entry.end + below - scrollRect.height));
  const most = entry.start - above;
  if (at >= least && at <= most) return;
  const target = at > most ? most : least;
  scrollElement.scrollTop = target;
  // The browser tells of it with its next frame; a press before that frame goes on from here.
  virtualizer.scrollOffset = target;
}
