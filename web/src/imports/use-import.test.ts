import { describe, expect, it } from "vitest";
import type { Reading } from "../api/types";
import { takenDocument } from "./use-import";

const color = (red: number) => ({ space: "srgb", coords: [red, 0, 0], alpha: 1 });
const reading = {
  document: {
    name: "Found",
    swatches: [
      { id: "a", color: color(0.1) },
      { id: "b", color: color(0.2) },
    ],
    ramps: [
      { id: "r", name: "Tied", plan: { steps: 5, stops: [{ swatch: "a", position: 0 }, { swatch: "b" }] } },
      { id: "s", name: "Plain", plan: { stops: [{ color: color(1) }, { color: color(0) }] } },
    ],
  },
} as unknown as Reading;

describe("what is taken of a file", () => {
  it("is all of it where nothing is left out", () => {
    expect(takenDocument(reading, new Set())).toEqual(reading.document);
  });

  it("lets stops of swatches that stay behind take their colors along", () => {
    const taken = takenDocument(reading, new Set(["a"])) as typeof reading.document & {
      swatches: { id: string }[];
      ramps: { plan: { stops: unknown[]; steps: number } }[];
    };
    expect(taken.swatches.map((swatch) => swatch.id)).toEqual(["b"]);
    expect(taken.ramps[0]?.plan.stops).toEqual([
      { swatch: null, color: color(0.1), position: 0 },
      { swatch: "b" },
    ]);
    expect(taken.ramps[0]?.plan.steps).toBe(5);
  });

  it("leaves ramps out as it leaves swatches out", () => {
    const taken = takenDocument(reading, new Set(["r"])) as { ramps: { id: string }[] };
    expect(taken.ramps.map((ramp) => ramp.id)).toEqual(["s"]);
  });

  it("is sound for a file without ramps", () => {
    const { ramps: _, ...bare } = reading.document as Record<string, unknown>;
    const taken = takenDocument({ document: bare } as unknown as Reading, new Set(["b"]));
    expect(taken).toEqual({ name: "Found", swatches: [{ id: "a", color: color(0.1) }], ramps: [] });
  });
});
