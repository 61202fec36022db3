import { describe, expect, it } from "vitest";
import { stripes } from "./chips";

function many(count: number) {
  return Array.from({ length: count }, (_, place) => ({
    id: String(place),
    name: "",
    hex: `#${place.toString(16).padStart(6, "0")}`,
    alpha: 1,
  }));
}

/** Colors with where they begin and end, in percent. */
function read(background: string) {
  return [...background.matchAll(/(#[0-9a-f]{6}) ([\d.]+)% ([\d.]+)%/g)].map(
    ([, hex, from, to]) => [hex, Number(from), Number(to)] as const,
  );
}

describe("a band of many colors as one background", () => {
  it("gives each an equal share, without a gap", () => {
    const found = read(stripes(many(400), (swatch) => swatch.hex));
    expect(found.map(([hex]) => hex)).toEqual(many(400).map((swatch) => swatch.hex));
    expect(found[0]?.[1]).toBe(0);
    expect(found.at(-1)?.[2]).toBe(100);
    found.slice(1).forEach(([, from], place) => {
      expect(from).toBe(found[place]?.[2]);
    });
  });
  it("takes every so many where there are more than can be seen, from first to last", () => {
    const found = read(stripes(many(20_000), (swatch) => swatch.hex));
    expect(found).toHaveLength(1024);
    const places = found.map(([hex]) => Number.parseInt((hex ?? "").slice(1), 16));
    expect(places[0]).toBe(0);
    expect(places.at(-1)).toBeGreaterThan(19_900);
    places.slice(1).forEach((place, before) => {
      expect(place - (places[before] as number)).toBeLessThanOrEqual(20);
    });
  });
});
