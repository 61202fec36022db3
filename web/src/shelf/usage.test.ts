import { describe, expect, it } from "vitest";
import { amounts } from "./usage";

const used = (bytes: number, pictures: number) => ({
  bytes: { used: bytes, most: 4096 * 1048576 },
  pictures: { used: pictures, most: 5 },
  palettes: { used: 0, most: 0 },
  jobs: { used: 0, most: 50 },
});

describe("how full the shelf is", () => {
  it("is said in megabytes and counts, with the share of each", () => {
    const rows = amounts(used(2048 * 1048576, 4));
    expect(rows.map((row) => row.text)).toEqual(["2,048 of 4,096 MB", "4 of 5 pictures", "0 of 0 palettes"]);
    expect(rows.map((row) => row.share)).toEqual([0.5, 0.8, 1]);
  });

  it("is never more than all of it", () => {
    expect(amounts(used(1e13, 9)).map((row) => row.share)).toEqual([1, 1, 1]);
  });
});
