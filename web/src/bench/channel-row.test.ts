import { describe, expect, it } from "vitest";
import { type Channel, written } from "./channel-row";

const channel = (by: number, digits: number) => ({ by, digits }) as Channel;

describe("a coordinate as it is written", () => {
  it("is multiplied as the space says, with so many decimals", () => {
    expect(written(channel(255, 0), 0.5)).toBe("128");
    expect(written(channel(1, 3), 0.34321)).toBe("0.343");
    expect(written(channel(100, 1), 0.12345)).toBe("12.3");
  });
  it("is nothing, not less than nothing, where a trace is left", () => {
    expect(written(channel(1, 2), -0.0001)).toBe("0.00");
  });
});
