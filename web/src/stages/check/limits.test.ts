import { describe, expect, it } from "vitest";
import { isSame } from "./limits";

describe("limits that are tried out", () => {
  it("are the kept ones whatever the order, and where a check has none left", () => {
    expect(isSame({ text: { low: 7, high: 15 }, eyes: {} }, { text: { high: 15, low: 7 } })).toBe(true);
    expect(isSame({}, {})).toBe(true);
    expect(isSame({ a: { x: 1 }, b: { y: 2 } }, { b: { y: 2 }, a: { x: 1 } })).toBe(true);
  });

  it("are others when anything differs", () => {
    expect(isSame({ text: { low: 7 } }, { text: { low: 7.5 } })).toBe(false);
    expect(isSame({ text: { low: 7 } }, { eyes: { low: 7 } })).toBe(false);
    expect(isSame({}, { rules: { reference: "" } })).toBe(false);
  });
});
