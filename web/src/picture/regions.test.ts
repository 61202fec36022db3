import { describe, expect, it } from "vitest";
import type { Swatch } from "../api/types";
import { countWithin, type Indexed, outlineOnScreen, rectangle, swatchAt, swatchesWithin } from "./regions";

/** Rows of letters, each the swatch that paints the pixel; a dot is clear. */
function drawn(...rows: string[]): Indexed {
  const letters = [...new Set(rows.join(""))].sort();
  return {
    width: rows[0]?.length ?? 0,
    height: rows.length,
    indices: Uint8Array.from([...rows.join("")], (letter) => letters.indexOf(letter)),
    table: letters.map((letter) => (letter === "." ? null : letter)),
  };
}

const SHOWN = ["c", "b", "a"].map((id) => ({ id }) as Swatch);
const PLATE = drawn("aabb", "aabb", "ccc.", "ccc.");

describe("what a click or a drag reaches", () => {
  it("is the swatch that paints the place, and none outside or where it is clear", () => {
    expect(swatchAt(PLATE, { x: 2.9, y: 1.9 })).toBe("b");
    expect(swatchAt(PLATE, { x: 3, y: 3 })).toBeNull();
    expect(swatchAt(PLATE, { x: -0.1, y: 0 })).toBeNull();
    expect(swatchAt(PLATE, { x: 4, y: 0 })).toBeNull();
  });

  it("counts the pixels whose middle lies in a rectangle, whichever way it was dragged", () => {
    const there = countWithin(PLATE, rectangle({ x: 1, y: 1 }, { x: 3, y: 3 }));
    expect(there).toEqual(
      new Map([
        ["a", 1],
        ["b", 1],
        ["c", 2],
      ]),
    );
    expect(countWithin(PLATE, rectangle({ x: 3, y: 3 }, { x: 1, y: 1 }))).toEqual(there);
  });

  it("counts within a free outline, and leaves its hole out", () => {
    const triangle = [
      { x: 0, y: 0 },
      { x: 4, y: 0 },
      { x: 0, y: 4 },
    ];
    // The middles at or left of the diagonal: 4 + 3 + 2 + 1 of them, but for those on it.
    expect([...countWithin(PLATE, triangle).values()].reduce((sum, n) => sum + n, 0)).toBe(6);
    const outer = rectangle({ x: 0, y: 0 }, { x: 4, y: 4 });
    const inner = rectangle({ x: 1, y: 1 }, { x: 3, y: 3 });
    const ring = [...outer, outer[0], inner[0], ...inner.slice(1), inner[0], outer[0]] as typeof outer;
    expect(countWithin(PLATE, ring)).toEqual(
      new Map([
        ["a", 3],
        ["b", 3],
        ["c", 4],
      ]),
    );
  });

  it("reaches beyond the picture without harm", () => {
    const all = countWithin(PLATE, rectangle({ x: -50, y: -50 }, { x: 90, y: 90 }));
    expect(all).toEqual(
      new Map([
        ["a", 4],
        ["b", 4],
        ["c", 6],
      ]),
    );
    expect(countWithin(PLATE, rectangle({ x: 9, y: 9 }, { x: 12, y: 12 }))).toEqual(new Map());
  });

  it("leaves grains out, and keeps the order of the strip", () => {
    const counts = new Map([
      ["a", 500],
      ["b", 2],
      ["c", 498],
    ]);
    expect(swatchesWithin(counts, SHOWN)).toEqual(["c", "a"]);
    expect(swatchesWithin(new Map([["b", 2]]), SHOWN)).toEqual(["b"]);
  });
});

describe("the outline of what is selected", () => {
  const outline = (source: Indexed, zoom: number, ...ids: string[]) =>
    outlineOnScreen(
      source,
      new Set(ids),
      { zoom, x: 0, y: 0 },
      {
        width: source.width * zoom,
        height: source.height * zoom,
      },
    );

  it("runs along the inner edge", () => {
    const edges = outline(drawn("aaaaa", "abbba", "abbba", "abbba", "aaaaa"), 4, "b");
    const rows = Array.from({ length: 20 }, (_, y) => edges.slice(y * 20, y * 20 + 20).join(""));
    expect(rows[3]).toBe("0".repeat(20));
    expect(rows[4]).toBe(`0000${"1".repeat(12)}0000`);
    expect(rows[5]).toBe(`00001${"0".repeat(10)}10000`);
    expect(rows[16]).toBe("0".repeat(20));
  });

  it("leaves grains of a dither away, but not a swatch that is nothing else", () => {
    const plate = drawn("aaaaaaaa", "aacaaaaa", "aaaaaaaa", "aaaabbbb", "aaaabbbb", "aaaabbbb");
    const both = outline(plate, 1, "b", "c");
    expect(both[8 + 2]).toBe(0);
    expect(both.reduce((sum, edge) => sum + edge, 0)).toBeGreaterThan(4);
    expect(outline(plate, 1, "c")[8 + 2]).toBe(1);
    // What stands at the end of a row is not beside what begins the next one.
    const ends = outline(drawn("aaaabb", "baaabb", "baaaab", "baaaaa"), 1, "b");
    expect([...ends.slice(0, 6)].join("")).toBe("000000");
    expect([...ends.slice(6, 12)].join("")).toBe("000011");
  });
});
