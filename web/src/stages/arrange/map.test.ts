import { describe, expect, it } from "vitest";
import { pieces } from "./map";

const HUES = { left: 10, right: 110 };

describe("a link between two dots of the map", () => {
  it("is one line where that is the shorter way", () => {
    const from = { x: 30, y: 0 };
    const to = { x: 70, y: 50 };
    expect(pieces(from, to, HUES)).toEqual([[from, to]]);
    expect(pieces(from, to, null)).toEqual([[from, to]]);
  });
  it("goes out at one end of the hue and comes in at the other where that is shorter", () => {
    const red = { x: 15, y: 20 };
    const pink = { x: 95, y: 40 };
    for (const found of [pieces(red, pink, HUES), pieces(pink, red, HUES)]) {
      // 5 from the left end and 15 from the right one: a quarter of the way down is passed at the edge.
      expect(found).toEqual([
        [red, { x: 10, y: 25 }],
        [pink, { x: 110, y: 25 }],
      ]);
    }
  });
  it("never wraps a neutral, which has no hue", () => {
    const gray = { x: 5, y: 0 };
    const pink = { x: 105, y: 9 };
    expect(pieces(gray, pink, HUES)).toEqual([[gray, pink]]);
  });
});
