import { describe, expect, it } from "vitest";
import { layOut, rowsInView, targetIndex } from "./strip-layout";

describe("strip layout", () => {
  it("keeps up to 72 swatches on one row", () => {
    expect(layOut(24)).toMatchObject({ perRow: 24, rows: 1, isSingle: true });
    expect(layOut(72)).toMatchObject({ rows: 1 });
    expect(layOut(0)).toMatchObject({ perRow: 1, rows: 1 });
  });
  it("breaks more into rows of 64", () => {
    expect(layOut(73)).toMatchObject({ perRow: 64, rows: 2 });
    expect(layOut(256)).toMatchObject({ rows: 4 });
    expect(layOut(20_000)).toMatchObject({ rows: 313 });
  });
  it("draws only the rows in view, two to spare", () => {
    expect(rowsInView(313, 24, 2400, 96)).toEqual([98, 106]);
    expect(rowsInView(3, 24, 0, 96)).toEqual([0, 3]);
  });
});

describe("the index a dragged swatch gets", () => {
  it("counts only swatches that stay", () => {
    expect(targetIndex(5, [2])).toBe(4);
    expect(targetIndex(2, [5])).toBe(2);
    expect(targetIndex(4, [0, 1, 6])).toBe(2);
    expect(targetIndex(3, [3])).toBe(3);
  });
});
