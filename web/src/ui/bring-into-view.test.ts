import type { Virtualizer } from "@tanstack/react-virtual";
import { describe, expect, it } from "vitest";
import { bringIntoView } from "./bring-into-view";

const ROW = 10;

/** A list of 100 rows under a heading of one row's height, `at` its scroll place, in a view of ten rows; where it ends up. */
function broughtIntoView(at: number, index: number, below = 0): number {
  const element = { scrollTop: at };
  const virtualizer = {
    scrollElement: element,
    scrollRect: { width: 100, height: 10 * ROW },
    scrollOffset: at,
    getTotalSize: () => 101 * ROW,
    measurementsCache: Array.from({ length: 100 }, (_, row) => ({
      start: (row + 1) * ROW,
      end: (row + 2) * ROW,
    })),
  } as unknown as Virtualizer<HTMLDivElement, Element>;
  bringIntoView(virtualizer, index, { above: ROW, below });
  expect(virtualizer.scrollOffset, "and a press before the next frame goes on from there").toBe(
    element.scrollTop,
  );
  return element.scrollTop;
}

describe("an entry of a long list", () => {
  it("that is in view stays where it is, at both ends", () => {
    expect(broughtIntoView(200, 20)).toBe(200);
    expect(broughtIntoView(200, 28)).toBe(200);
  });
  it("comes in by no more than it takes, from above under the heading and from below", () => {
    expect(broughtIntoView(200, 19)).toBe(190);
    expect(broughtIntoView(200, 0)).toBe(0);
    expect(broughtIntoView(200, 29)).toBe(210);
    expect(broughtIntoView(200, 29, ROW)).toBe(220);
    expect(broughtIntoView(0, 99)).toBe(910);
    expect(broughtIntoView(0, 99, ROW), "no further than there is").toBe(910);
    expect(broughtIntoView(910, 99, ROW)).toBe(910);
  });
  it("that is not there moves nothing", () => {
    expect(broughtIntoView(200, 100)).toBe(200);
  });
});
