import { describe, expect, it } from "vitest";
import { fitView, MOST_ZOOM, zoomAt } from "./view";

describe("fitting a picture into the area", () => {
  it("shrinks a large one and centers it", () => {
    const view = fitView(2000, 1000, 940, 540);
    expect(view.zoom).toBeCloseTo(0.45);
    expect(view.x).toBeCloseTo((940 - 2000 * 0.45) / 2);
  });
  it("enlarges a small one by whole steps, so that its pixels stay square", () => {
    expect(fitView(64, 64, 900, 500).zoom).toBe(7);
    expect(fitView(1, 1, 900, 500).zoom).toBe(MOST_ZOOM);
  });
});

describe("zooming", () => {
  it("holds the point under the pointer", () => {
    const before = { zoom: 1, x: 10, y: 20 };
    const after = zoomAt(before, 4, 110, 70);
    expect((110 - after.x) / after.zoom).toBeCloseTo(100);
    expect((70 - after.y) / after.zoom).toBeCloseTo(50);
  });
  it("stays within its limits", () => {
    expect(zoomAt({ zoom: 1, x: 0, y: 0 }, 1000, 0, 0).zoom).toBe(MOST_ZOOM);
  });
});
