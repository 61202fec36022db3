import { describe, expect, it, test } from "vitest";
import type { PaletteCard, RampCard } from "../api/types";
import { matchesPalette, matchesRamp, readSearch, sortPalettes, sortRamps } from "./search";

function card(name: string, more: Partial<PaletteCard> = {}): PaletteCard {
  return {
    id: name,
    name,
    updated: "2026-11-25T00:00:00Z",
    trashed: false,
    strip: "",
    count: 8,
    picture: null,
    favorite: false,
    tags: [],
    near: null,
    ...more,
  };
}

test("a search reads words, tags, counts and a color", () => {
  expect(readSearch("moth tag:press near #c48a3a >4 favorite")).toEqual({
    words: ["moth"],
    tags: ["press"],
    near: "#c48a3a",
    within: 10,
    fewest: 5,
    most: Infinity,
    favorites: true,
  });
  expect(readSearch("near oklch(0.5 0.1 40) <=8")).toMatchObject({
    near: "oklch(0.5 0.1 40)",
    most: 8,
    words: [],
  });
  expect(readSearch("near tomato").near).toBe("tomato");
  expect(readSearch('"Plate 4"').words).toEqual(["plate 4"]);
});

test("cards match by name or tag, count and favorites", () => {
  const press = card("Lamplight", { tags: ["press run"], count: 24 });
  expect(matchesPalette(press, readSearch("PRESS"))).toBe(true);
  expect(matchesPalette(press, readSearch("lamp tag:run"))).toBe(true);
  expect(matchesPalette(press, readSearch("tag:night"))).toBe(false);
  expect(matchesPalette(press, readSearch("=24"))).toBe(true);
  expect(matchesPalette(press, readSearch("<24"))).toBe(false);
  expect(matchesPalette(press, readSearch("favorite"))).toBe(false);
});

test("names of swatches count as words, and nearness is a filter", () => {
  const press = card("Lamplight", { near: 6 });
  const holding = new Map([["gold", new Set(["Lamplight"])]]);
  expect(matchesPalette(press, readSearch("gold"), holding)).toBe(true);
  expect(matchesPalette(press, readSearch("gold lamp"), holding)).toBe(true);
  expect(matchesPalette(press, readSearch("gold size"), holding)).toBe(false);
  expect(matchesPalette(card("Other"), readSearch("gold"), holding)).toBe(false);
  expect(readSearch("#c48a3a within 4,5")).toMatchObject({ near: "#c48a3a", within: 4.5, words: [] });
  expect(matchesPalette(press, readSearch("#c48a3a"))).toBe(true);
  expect(matchesPalette(press, readSearch("#c48a3a within 5"))).toBe(false);
  expect(matchesPalette(card("Far", { near: 11 }), readSearch("#c48a3a"))).toBe(false);
});

test("favorites come first, and the nearest first where a color is looked for", () => {
  const cards = [card("B10", { near: 3 }), card("B9", { near: 1 }), card("A", { near: 7, favorite: true })];
  expect(sortPalettes(cards, "name", false).map((entry) => entry.name)).toEqual(["A", "B9", "B10"]);
  expect(sortPalettes(cards, "newest", true).map((entry) => entry.name)).toEqual(["B9", "B10", "A"]);
});

describe("ramps of the shelf", () => {
  const ramp = (name: string, tags: string[] = [], near: number | null = null) =>
    ({ id: name, palette: "p", palette_name: "P", updated: "", name, tags, strip: "", near }) as RampCard;

  it("are found by words, tags and colors, and not by counts or favorites", () => {
    const glow = ramp("Lamp glow", ["glow", "light"]);
    expect(matchesRamp(glow, readSearch("lamp"))).toBe(true);
    expect(matchesRamp(glow, readSearch("light"))).toBe(true);
    expect(matchesRamp(glow, readSearch("tag:glow"))).toBe(true);
    expect(matchesRamp(glow, readSearch("tag:chart"))).toBe(false);
    expect(matchesRamp(glow, readSearch("near #ffd478"))).toBe(true);
    for (const text of [">3", "<9", "favorite", "reed"])
      expect(matchesRamp(glow, readSearch(text))).toBe(false);
  });

  it("stand nearest first when a color is looked for, else as asked", () => {
    const cards = [ramp("b", [], 4), ramp("a", [], 1), ramp("c")];
    expect(sortRamps(cards, "newest", true).map((card) => card.name)).toEqual(["a", "b", "c"]);
    expect(sortRamps(cards, "name", false).map((card) => card.name)).toEqual(["a", "b", "c"]);
    expect(sortRamps(cards, "newest", false).map((card) => card.name)).toEqual(["b", "a", "c"]);
  });
});
