import { describe, expect, it } from "vitest";
import type { RampRecipe } from "../../api/types";
import { shareAt } from "./closer";
import { EMPTY_RECIPE, lanesShown, sameness, swatchStops, useRamps, wholeStop } from "./store";
import { hexesOf } from "./tone";

const text = (code: string, position: number | null = null) => wholeStop({ text: code, position });
const recipe = (part: Partial<RampRecipe>): RampRecipe => ({
  ...EMPTY_RECIPE,
  stops: [text("#000"), text("#fff")],
  ...part,
});

describe("whether two recipes are the same ramp", () => {
  it("does not hang on the order of settings or on what is left out", () => {
    const { curve, ...rest } = recipe({});
    expect(sameness({ curve, ...rest })).toBe(sameness({ ...rest } as RampRecipe));
    const bare = [{ text: "#000" }, { text: "#fff" }] as RampRecipe["stops"];
    expect(sameness(recipe({ stops: bare }))).toBe(sameness(recipe({})));
  });

  it("hears every setting and every part of a stop", () => {
    const base = sameness(recipe({}));
    const others: Partial<RampRecipe>[] = [
      { steps: 8 },
      { steps: null },
      { space: "oklch" },
      { hue: "longer" },
      { curve: "natural" },
      { spacing: "even" },
      { gamut: "clip" },
      { closed: true },
      { purpose: "cyclic" },
      { stops: [text("#000"), text("#fffffe")] },
      { stops: [text("#000"), text("#fff", 0.9)] },
      { stops: [{ ...text("#000"), midpoint: 0.4 }, text("#fff")] },
      { stops: [{ ...text("#000"), easing: { kind: "smooth", numbers: [] } }, text("#fff")] },
      { stops: [wholeStop({ swatch: "a" }), text("#fff")] },
      { stops: [text("#000"), text("#fff"), text("#fff")] },
    ];
    const said = others.map((part) => sameness(recipe(part)));
    expect(new Set([base, ...said]).size).toBe(others.length + 1);
  });

  it("takes a straight easing with numbers for one without", () => {
    const with_ = recipe({
      stops: [{ ...text("#000"), easing: { kind: "linear", numbers: [1, 2] } }, text("#fff")],
    });
    expect(sameness(with_)).toBe(sameness(recipe({})));
  });
});

describe("the lanes that stand", () => {
  const every = [
    { id: "oklab", is_shown: true },
    { id: "srgb", is_shown: true },
    { id: "pigment", is_shown: false },
  ];
  it("are those chosen that exist, else the usual ones", () => {
    expect(lanesShown(null, every)).toEqual(["oklab", "srgb"]);
    expect(lanesShown(["pigment", "gone"], every)).toEqual(["pigment"]);
    expect(lanesShown(["gone"], every)).toEqual(["oklab", "srgb"]);
    expect(lanesShown([], every)).toEqual(["oklab", "srgb"]);
  });

  it("are remembered", () => {
    useRamps.getState().setLanes(["srgb"]);
    expect(JSON.parse(localStorage.getItem("huvren.lanes") ?? "null")).toEqual(["srgb"]);
    expect(useRamps.getState().lanes).toEqual(["srgb"]);
  });
});

describe("a ramp that is worked on", () => {
  it("is kept apart for each palette and changed in parts", () => {
    const { set } = useRamps.getState();
    set("a", { recipe: recipe({ steps: 5 }), kept: "r" });
    set("b", { stop: 2 });
    set("a", { stop: 1, follows: false });
    const { ramps } = useRamps.getState();
    expect(ramps.a).toMatchObject({ kept: "r", stop: 1, follows: false, drawn: "continuous" });
    expect(ramps.a?.recipe.steps).toBe(5);
    expect(ramps.b).toMatchObject({ kept: null, stop: 2, follows: true });
  });

  it("begins with the swatches it was asked for", () => {
    expect(swatchStops(["x", "y"]).map((stop) => stop.swatch)).toEqual(["x", "y"]);
    expect(swatchStops(["x"])[0]).toMatchObject({ text: null, color: null, position: null, midpoint: 0.5 });
  });
});

describe("where on a ramp a point of a shape lies", () => {
  const middle = [0.5, 0.5] as const;
  it("runs to the right at 90° and upward at 0°, as in CSS", () => {
    expect(shareAt("linear", 0, 0.5, middle, 90)).toBeCloseTo(0);
    expect(shareAt("linear", 1, 0.5, middle, 90)).toBeCloseTo(1);
    expect(shareAt("linear", 0.25, 0.9, middle, 90)).toBeCloseTo(0.25);
    expect(shareAt("linear", 0.5, 1, middle, 0)).toBeCloseTo(0);
    expect(shareAt("linear", 0.5, 0, middle, 0)).toBeCloseTo(1);
  });

  it("reaches both corners at 45°", () => {
    expect(shareAt("linear", 0, 1, middle, 45)).toBeCloseTo(0);
    expect(shareAt("linear", 1, 0, middle, 45)).toBeCloseTo(1);
    expect(shareAt("linear", 0.5, 0.5, middle, 45)).toBeCloseTo(0.5);
  });

  it("ends in the farthest corner of a circle", () => {
    expect(shareAt("radial", 0.5, 0.5, middle, 0)).toBe(0);
    expect(shareAt("radial", 1, 1, middle, 0)).toBeCloseTo(1);
    expect(shareAt("radial", 1, 1, [0.2, 0.2], 0)).toBeCloseTo(1);
    expect(shareAt("radial", 0, 0, [0.2, 0.2], 0)).toBeLessThan(0.3);
  });

  it("goes round clockwise from the top, from where it starts", () => {
    expect(shareAt("conic", 0.5, 0.1, middle, 0)).toBeCloseTo(0);
    expect(shareAt("conic", 0.9, 0.5, middle, 0)).toBeCloseTo(0.25);
    expect(shareAt("conic", 0.5, 0.9, middle, 0)).toBeCloseTo(0.5);
    expect(shareAt("conic", 0.1, 0.5, middle, 0)).toBeCloseTo(0.75);
    expect(shareAt("conic", 0.9, 0.5, middle, 90)).toBeCloseTo(0);
    expect(shareAt("conic", 0.5, 0.1, middle, 90)).toBeCloseTo(0.75);
  });
});

describe("steps that came as bytes", () => {
  it("are written as codes, alpha left out", () => {
    expect(hexesOf(btoa(String.fromCharCode(0, 128, 255, 255, 16, 1, 2, 0)))).toEqual(["#0080ff", "#100102"]);
    expect(hexesOf("")).toEqual([]);
  });
});
