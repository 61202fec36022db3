import { describe, expect, it } from "vitest";
import { finest } from "./draw";

const copies = [8000, 4000, 2000, 1000].map((width) => ({ width, height: width / 2 }) as ImageBitmap);
const CORNER = { x: 20, y: 20 };

describe("of a large picture and its copies", () => {
  const drawn = (wide: number, corner = CORNER) => finest(copies, corner, wide, 1000, 600);
  it("the largest is drawn of which not too much is seen", () => {
    expect([drawn(900).image.width, drawn(900).zoom]).toEqual([2000, 0.45]);
    expect(drawn(8000).image.width).toBe(8000);
    expect(drawn(2000).image.width).toBe(4000);
    expect(drawn(64_000).zoom).toBe(8);
  });
  it("it is the last where all are too large, and the whole where nothing of it is seen", () => {
    expect(finest(copies.slice(0, 1), CORNER, 900, 1000, 600).image.width).toBe(8000);
    expect(drawn(900, { x: 4000, y: 0 }).image.width).toBe(8000);
  });
});
