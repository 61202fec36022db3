import { describe, expect, it } from "vitest";
import { canBeTuned, canSearchLonger, fitting, isListTooShort, isTuned } from "./recipe";
import type { Menus, Recipe } from "./types";

const menus = {
  choosers: [
    { id: "perceptual", tunes: "moved", evens_out: true },
    { id: "median-cut", tunes: "moved", evens_out: false },
    { id: "own", tunes: "", evens_out: false },
    { id: "list", needs: "list" },
    { id: "whole", needs: "list", sets_count: true },
  ],
} as unknown as Menus;
const base = { chooser: "perceptual", dither: "ordered", strength: 100, tune: true } as Recipe;

describe("a recipe", () => {
  it("is tuned where it dithers, lets its colors be moved and says so", () => {
    expect(isTuned(base, menus)).toBe(true);
    expect(isTuned({ ...base, tune: false }, menus)).toBe(false);
    for (const part of [{ dither: "none" }, { strength: 0 }, { chooser: "own" }, { chooser: "unknown" }])
      expect(canBeTuned({ ...base, ...part }, menus)).toBe(false);
  });

  it("can be searched for longer where it is tuned, or where its chooser evens out", () => {
    expect(canSearchLonger({ ...base, dither: "none" }, menus)).toBe(true);
    expect(canSearchLonger({ ...base, chooser: "median-cut" }, menus)).toBe(true);
    expect(canSearchLonger({ ...base, chooser: "median-cut", dither: "none" }, menus)).toBe(false);
    expect(canSearchLonger({ ...base, chooser: "own" }, menus)).toBe(false);
  });

  it("gives nothing where its list is empty, and needs none otherwise", () => {
    expect(isListTooShort({ ...base, chooser: "list", listed: [] }, menus)).toBe(true);
    expect(isListTooShort({ ...base, chooser: "list", listed: ["#fff"] }, menus)).toBe(true);
    expect(isListTooShort({ ...base, chooser: "list", listed: ["#fff", "#000"] }, menus)).toBe(false);
    expect(isListTooShort({ ...base, chooser: "whole", listed: ["#fff"] }, menus)).toBe(false);
    expect(isListTooShort({ ...base, chooser: "whole", listed: [] }, menus)).toBe(true);
    expect(isListTooShort({ ...base, listed: [] }, menus)).toBe(false);
  });

  it("asks for no more colors than its list holds", () => {
    const listed = ["#000", "#111", "#222"];
    const of = (chooser: string, colors: number) =>
      fitting({ ...base, chooser, colors, listed }, menus).colors;
    expect(of("list", 24)).toBe(3);
    expect(of("list", 2)).toBe(2);
    expect(of("whole", 24)).toBe(24);
    expect(of("perceptual", 24)).toBe(24);
    expect(fitting({ ...base, chooser: "list", colors: 24, listed: ["#000"] }, menus).colors).toBe(24);
  });
});
