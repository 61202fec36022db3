import { describe, expect, it } from "vitest";
import type { Menus, Recipe } from "../api/types";
import { combinations, MOST_PROOFS, proofLabel } from "./proofs";

const base = { colors: 24, chooser: "perceptual", dither: "none", accent: 0, tune: true } as Recipe;

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

  it("holds tuned and untuned side by side where there is a dither to tune to", () => {
    const longer = { ...base, search: "longer" } as Recipe;
    const made = combinations(longer, [8], [], ["none", "stucki"], [true, false]);
    expect(made.map((recipe) => [recipe.dither, recipe.tune, recipe.search])).toEqual([
      ["none", true, "usual"],
      ["stucki", true, "usual"],
      ["stucki", false, "usual"],
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
    } as unknown as Menus;
    expect(proofLabel({ ...base, dither: "stucki", accent: 40 }, menus)).toBe(
      "24 colors, Stucki, accents 40 %",
    );
    expect(proofLabel({ ...base, dither: "stucki", tune: false }, menus)).toBe("24 colors, Stucki, untuned");
    expect(proofLabel({ ...base, chooser: "own" }, menus)).toBe("its own colors");
    expect(proofLabel({ ...base, chooser: "own", dither: "stucki", tune: false }, menus)).toBe(
      "its own colors, Stucki",
    );
  });
});
