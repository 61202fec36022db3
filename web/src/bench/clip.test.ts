import { describe, expect, it } from "vitest";
import { asLines, partOf, readClip } from "./clip";

const CLIP = { palette: "p", name: "Dusk", step: 4, ids: ["a", "b"] };

describe("swatches on the clipboard", () => {
  it("are lines of a name and a code as text", () => {
    expect(
      asLines([
        { name: "Gold size", hex: "#c9a227" },
        { name: "", hex: "#11223380" },
      ]),
    ).toBe("Gold size #c9a227\n#11223380");
  });
  it("are known again, and nothing else is taken for them", () => {
    expect(readClip(JSON.stringify({ ...CLIP, more: 1 }))).toEqual(CLIP);
    for (const text of [
      "",
      "null",
      "[]",
      "{",
      JSON.stringify({ ...CLIP, step: 1.5 }),
      JSON.stringify({ ...CLIP, ids: [1] }),
    ])
      expect(readClip(text), text).toBeNull();
  });
  it("take their groups along, and nothing else of their palette", () => {
    const document = {
      version: 7,
      name: "Dusk",
      swatches: [
        { id: "a", group: "wings" },
        { id: "b", group: null },
        { id: "c", group: "leaves" },
      ],
      groups: [{ id: "wings" }, { id: "leaves" }],
      ramps: [{ id: "r" }],
      slots: 8,
      variants: [{}],
    };
    expect(partOf(document, ["a", "gone"])).toEqual({
      version: 7,
      name: "Dusk",
      swatches: [{ id: "a", group: "wings" }],
      groups: [{ id: "wings" }],
    });
  });
});
