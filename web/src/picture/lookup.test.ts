import { describe, expect, it } from "vitest";
import type { Swatch } from "../api/types";
import { lookupTable, paint } from "./lookup";

function swatch(id: string, rgb: [number, number, number], alpha = 1): Swatch {
  return { id, rgb, alpha } as unknown as Swatch;
}

const red = swatch("a", [255, 0, 16]);
const blue = swatch("b", [0, 32, 255]);

describe("the table an index map is painted through", () => {
  it("writes red first and alpha last, as canvas pixels are", () => {
    const bytes = new Uint8Array(lookupTable(["a", "b"], [red, blue], null, null, 128).buffer);
    expect([...bytes.slice(0, 8)]).toEqual([255, 0, 16, 255, 0, 32, 255, 255]);
  });
  it("follows identity, not order", () => {
    const there = lookupTable(["a", "b"], [red, blue], null, null, 128);
    const turned = lookupTable(["a", "b"], [blue, red], null, null, 128);
    expect(turned).toEqual(there);
  });
  it("leaves what has no swatch clear", () => {
    const words = lookupTable([null, "gone", "c"], [red, swatch("c", [1, 2, 3], 0)], null, null, 128);
    expect([...words.slice(0, 3)]).toEqual([0, 0, 0]);
  });
  it("shows one swatch and fades the rest toward the surround", () => {
    const bytes = new Uint8Array(lookupTable(["a", "b"], [red, blue], null, "a", 100).buffer);
    expect([...bytes.slice(0, 3)]).toEqual([255, 0, 16]);
    expect([...bytes.slice(4, 7)]).toEqual([84, 89, 125]);
  });
  it("takes a color that is being dragged", () => {
    const bytes = new Uint8Array(lookupTable(["a"], [red], { id: "a", rgb: [9, 8, 7] }, null, 0).buffer);
    expect([...bytes.slice(0, 4)]).toEqual([9, 8, 7, 255]);
  });
});

describe("painting", () => {
  it("looks every pixel up", () => {
    const words = new Uint32Array(256);
    words[2] = 7;
    words[5] = 9;
    const pixels = new Uint32Array(3);
    paint(new Uint8Array([5, 2, 5]), words, pixels);
    expect([...pixels]).toEqual([9, 7, 9]);
  });
});

describe("a lens over the table", () => {
  it("changes what is seen before other swatches fade, and nothing of what is clear", () => {
    const swatches = [
      { id: "a", rgb: [10, 20, 30], gray: 20, alpha: 1 },
      { id: "b", rgb: [40, 50, 60], gray: 50, alpha: 0 },
    ] as unknown as Parameters<typeof lookupTable>[1];
    const swap = (red: number, green: number, blue: number): [number, number, number] => [blue, green, red];
    const plain = lookupTable(["a", "b", null], swatches, null, null, 0);
    const seen = lookupTable(["a", "b", null], swatches, null, null, 0, false, swap);
    expect(plain[0]).toBe(0xff1e140a);
    expect(seen[0]).toBe(0xff0a141e);
    expect([seen[1], seen[2]]).toEqual([0, 0]);
    const dragged = lookupTable(["a"], swatches, { id: "a", rgb: [1, 2, 3] }, null, 0, false, swap);
    expect(dragged[0]).toBe(0xff010203);
  });
});
