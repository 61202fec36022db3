import { expect, test } from "vitest";
import type { Reading } from "../api/types";
import { pieces } from "./source";
import { isDrawing } from "./store";
import { inDoubt } from "./use-import";

test("a text is cut at its marks, and all of it is there", () => {
  const text = "Lamp #ffcc66, 🌙 ink #1b1a1d.";
  const marks = ["#ffcc66", "#1b1a1d"].map((code) => [text.indexOf(code), text.indexOf(code) + 7]);
  const cut = pieces(text, marks, ["a", "b"]);
  expect(cut.map((piece) => piece.text).join("")).toBe(text);
  expect(cut.filter((piece) => piece.id).map((piece) => [piece.id, piece.text])).toEqual([
    ["a", "#ffcc66"],
    ["b", "#1b1a1d"],
  ]);
});

test("marks that overlap or lie behind the shown part are left out", () => {
  expect(
    pieces(
      "abcdef",
      [
        [1, 3],
        [2, 4],
        [5, 9],
        [20, 22],
      ],
      ["a", "b", "c", "d"],
    ),
  ).toEqual([
    { text: "a", id: null },
    { text: "bc", id: "a" },
    { text: "de", id: null },
    { text: "f", id: "c" },
  ]);
  expect(pieces("", [], [])).toEqual([]);
});

test("finds with a reason against them are in doubt", () => {
  const reading = { swatches: [{ id: "a" }, { id: "b" }], doubts: ["", "a word"] } as unknown as Reading;
  expect([...inDoubt(reading)]).toEqual(["b"]);
  expect(inDoubt({ ...reading, doubts: [] }).size).toBe(0);
  expect(inDoubt(null).size).toBe(0);
});

test("drawings are told by their ending or kind", () => {
  expect(isDrawing(new File([], "a.SVG"))).toBe(true);
  expect(isDrawing(new File([], "a.svgz"))).toBe(true);
  expect(isDrawing(new File([], "a", { type: "image/svg+xml" }))).toBe(true);
  expect(isDrawing(new File([], "a.svg.txt"))).toBe(false);
});
