import { QueryClient } from "@tanstack/react-query";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { ask } from "../api/queries";
import type { Link, Preview, Swatch } from "../api/types";
import { useScreen } from "../shell/store";
import { used } from "../testing/hook";
import { usePainted } from "./use-painted";

const SWATCHES = [
  { id: "ink", hex: "#102030", rgb: [16, 32, 48], alpha: 1 },
  { id: "lamp", hex: "#ffcc00", rgb: [255, 204, 0], alpha: 1 },
] as unknown as Swatch[];
const LINK = {
  picture: { id: "plate" },
  maps: ["map"],
  width: 2,
  height: 1,
  table: ["ink", "lamp"],
} as unknown as Link;
let painted: number[][] = [];

class Canvas {
  constructor(
    public width: number,
    public height: number,
  ) {}
  getContext() {
    return { putImageData: (data: Data) => painted.push([...data.data]) };
  }
}
class Data {
  data: Uint8ClampedArray;
  constructor(width: number, height: number) {
    this.data = new Uint8ClampedArray(new ArrayBuffer(width * height * 4));
  }
}

beforeEach(() => {
  vi.stubGlobal("OffscreenCanvas", Canvas);
  vi.stubGlobal("ImageData", Data);
  painted = [];
  useScreen.setState({ hovered: null, dragging: null });
});
afterEach(() => vi.unstubAllGlobals());

function shown(preview: Preview | null = null, swatches = SWATCHES) {
  const queries = new QueryClient();
  queries.setQueryData(ask.indices("p", "map").queryKey, new Uint8Array([0, 1]) as never);
  return used(
    ({ preview: now, swatches: all }) => usePainted("p", LINK, now, all),
    { preview, swatches },
    { queries },
  );
}

describe("the index map through the palette", () => {
  it("is the color of each pixel's swatch", () => {
    const { now } = shown();
    expect(painted.at(-1)).toEqual([16, 32, 48, 255, 255, 204, 0, 255]);
    expect(now().painted?.version).toBe(1);
  });
  it("is painted anew in the same canvas when a swatch changes, without being asked for", () => {
    const { now, draw } = shown();
    const canvas = now().painted?.canvas;
    const changed = [SWATCHES[0], { ...SWATCHES[1], hex: "#ff0000", rgb: [255, 0, 0] }] as Swatch[];
    draw({ preview: null, swatches: changed });
    expect(painted.at(-1)).toEqual([16, 32, 48, 255, 255, 0, 0, 255]);
    expect(now().painted).toEqual({ canvas, version: 2 });
  });
  it("takes the table of a step that is tried out, and the indices of a reduction", () => {
    const step = {
      kind: "step",
      proposal: { tables: [{ picture: "plate", table: ["lamp", "lamp"] }] },
    } as unknown as Preview;
    const { draw } = shown(step);
    expect(painted.at(-1)).toEqual([255, 204, 0, 255, 255, 204, 0, 255]);
    const reduced = {
      kind: "reduce",
      indices: new Uint8Array([1]),
      proposal: { width: 1, height: 1, table: ["ink", "lamp"] },
    } as unknown as Preview;
    draw({ preview: reduced, swatches: SWATCHES });
    expect(painted.at(-1)).toEqual([255, 204, 0, 255]);
  });
});
