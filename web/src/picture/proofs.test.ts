import { describe, expect, it } from "vitest";
import type { Menus, Recipe } from "../api/types";
import { combinations, MOST_PROOFS, proofLabel } from "./proofs";

const base = {
  colors: 24,
  chooser: "perceptual",
  dither: "none",
  accent: 0,
  tune: true,
  grain: 50,
} as Recipe;

describe("a proof sheet", () => {
  it("holds every combination, the count changing fastest", () => {
    const made = combinations(base, [8, 16], [], ["none", "stucki"]);
    expect(made.map((recipe) => [recipe.colors, recipe.dither])).toEqual([
      [8, "none"],
      [16, "none"],
      [8, "stucki"],
      [16, "stucki"],
    ]);
  });

  it("holds grains and untuned side by side where there is a dither to tune to", () => {
    const longer = { ...base, search: "longer" } as Recipe;
    const made = combinations(
      longer,
      [8],
      [],
      ["none", "stucki"],
      [{ tune: true, grain: 0 }, { tune: true, grain: 50 }, { tune: false }],
    );
    expect(made.map((recipe) => [recipe.dither, recipe.tune, recipe.grain, recipe.search])).toEqual([
      ["none", true, 50, "usual"],
      ["stucki", true, 0, "usual"],
      ["stucki", true, 50, "usual"],
      ["stucki", false, 50, "usual"],
    ]);
  });

  it("never holds more than fit", () => {
    expect(combinations(base, [2, 4, 8, 16, 32], ["a", "b"], ["c", "d"])).toHaveLength(MOST_PROOFS);
  });

  it("names what sets a proof apart", () => {
    const menus = {
      choosers: [
        { id: "own", label: "its own colors", sets_count: true, tunes: "" },
        { id: "perceptual", label: "perceptual split", tunes: "moved" },
      ],
      dithers: [{ id: "stucki", label: "Stucki" }],
      grains: [{ grain: 50, label: "fine" }],
    } as unknown as Menus;
    expect(proofLabel({ ...base, dither: "stucki", accent: 40 }, menus)).toBe(
      "24 colors, Stucki, fine grain, accents 40 %",
    );
    expect(proofLabel({ ...base, dither: "stucki", grain: 30 }, menus)).toBe(
      "24 colors, Stucki, grain of 30",
    );
    expect(proofLabel({ ...base, dither: "stucki", tune: false }, menus)).toBe("24 colors, Stucki, untuned");
    expect(proofLabel({ ...base, chooser: "own" }, menus)).toBe("its own colors");
    expect(proofLabel({ ...base, chooser: "own", dither: "stucki", tune: false }, menus)).toBe(
      "its own colors, Stucki",
    );
  });
});
