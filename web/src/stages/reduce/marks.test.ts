import { describe, expect, it } from "vitest";
import { markFromDrag } from "./marks";

const SIZE = { width: 200, height: 100 };

describe("markFromDrag", () => {
  it("makes a rectangle whichever way it is drawn, inside the picture", () => {
    const path = [
      { x: 150, y: 90 },
      { x: 20, y: 20 },
      { x: -30, y: 10 },
    ];
    expect(markFromDrag("rectangle", path, SIZE, 4, 0.05)).toEqual({
      shape: "rectangle",
      x: 0,
      y: 0.1,
      width: 0.75,
      height: expect.closeTo(0.8, 6),
      weight: 4,
    });
  });

  it("leaves out what is too small to mean anything", () => {
    expect(markFromDrag("rectangle", [{ x: 5, y: 5 }], SIZE, 4, 0.05)).toBeNull();
    expect(markFromDrag("rectangle", [], SIZE, 4, 0.05)).toBeNull();
  });

  it("keeps the path of a brush in shares", () => {
    expect(markFromDrag("brush", [{ x: 100, y: 50 }], SIZE, 0, 0.1)).toEqual({
      shape: "brush",
      points: [[0.5, 0.5]],
      radius: 0.1,
      weight: 0,
    });
  });
});
