import { describe, expect, it } from "vitest";
import { paintedWords } from "./drawing-view";

describe("a drawing's pixels", () => {
  it("have the very bytes of their codes, in a canvas's order", () => {
    const bytes = new Uint8Array(paintedWords(new Uint8Array([1, 0, 1, 2]), ["#102030", "#fa9b0cff"]).buffer);
    expect([...bytes]).toEqual([250, 155, 12, 255, 16, 32, 48, 255, 250, 155, 12, 255, 0, 0, 0, 0]);
  });
});
