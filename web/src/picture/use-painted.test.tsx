import { QueryClient } from "@tanstack/react-query";
import { act } from "react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { ask } from "../api/queries";
import type { Link, Palette, Preview, Proposal, Recipe, Swatch } from "../api/types";
import { useLensStore } from "../lens/lens";
import { useScreen } from "../shell/store";
import { rest, used } from "../testing/hook";
import { useErrorMap, useOriginal, usePainted, useTileMap } from "./use-painted";

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
    expect(now().painted).toEqual({ canvas, copies: [], version: 2 });
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

const PALETTE = { id: "p", revision: 3 } as Palette;
const RECIPE = { tile: { width: 8, height: 16 } } as Recipe;
const forever = { queries: { staleTime: Number.POSITIVE_INFINITY } };

/** Rest until what was decoded is shown. */
const shownAtLast = async () => {
  for (let turn = 0; turn < 4; turn += 1) await rest();
};

/** Images that load at once, or never; remembers their addresses. */
function imagesThat(decode: () => Promise<void>, width = 2, height = 1) {
  const sources: string[] = [];
  vi.stubGlobal(
    "Image",
    class {
      naturalWidth = width;
      naturalHeight = height;
      decode = decode;
      set src(address: string) {
        sources.push(address);
      }
    },
  );
  return sources;
}

describe("the original", () => {
  it("is asked for as it is, by its lightness, or through the lens", async () => {
    const sources = imagesThat(async () => {});
    const { now, draw } = used(({ inGray }) => useOriginal("plate", inGray), { inGray: false });
    await shownAtLast();
    expect(now()).not.toBeNull();
    draw({ inGray: true });
    act(() => useLensStore.getState().choose({ id: "deutan", label: "Deutan", amount: 60 }));
    await shownAtLast();
    expect(sources[0]).toBe("/api/pictures/plate/image");
    expect(sources[1]).toBe("/api/pictures/plate/gray");
    expect(sources[2]).toMatch(/^\/api\/pictures\/plate\/seen\?lens=deutan/);
    act(() => useLensStore.getState().choose(null));
  });
  it("is nothing without a picture, and asks for none", async () => {
    const sources = imagesThat(async () => {});
    const { now } = used(() => useOriginal(undefined), undefined);
    await shownAtLast();
    expect(now()).toBeNull();
    expect(sources).toEqual([]);
  });
});

describe("the error map", () => {
  const queries = () => {
    const client = new QueryClient({ defaultOptions: forever });
    client.setQueryData(ask.errorMap(PALETTE, "plate", RECIPE, "afar").queryKey, "of the recipe" as never);
    client.setQueryData(ask.errorMap(PALETTE, "plate", null, "pixels").queryKey, "of what is kept" as never);
    return client;
  };
  it("is that of the recipe or of the kept picture, and none where none is wanted", () => {
    const shown = (recipe: Recipe | null, kind: "afar" | "pixels" | null) =>
      used(() => useErrorMap(PALETTE, LINK, recipe, kind), undefined, { queries: queries() }).now();
    expect(shown(RECIPE, "afar")).toBe("of the recipe");
    expect(shown(null, "pixels")).toBe("of what is kept");
    expect(shown(null, null)).toBeNull();
  });
});

describe("the map of tiles", () => {
  const drawn: unknown[][] = [];
  class Sheet extends Canvas {
    override getContext() {
      const pen = {
        imageSmoothingEnabled: true,
        drawImage: (...words: unknown[]) => drawn.push(words.slice(1)),
      };
      return pen as never;
    }
  }
  const link = { ...LINK, width: 12, height: 16, recipe: RECIPE } as Link;
  const shown = (proposal: Proposal | null, recipe: Recipe | null, wanted = true) =>
    used(() => useTileMap(PALETTE, link, proposal, recipe, wanted), undefined);
  beforeEach(() => {
    drawn.length = 0;
    vi.stubGlobal("OffscreenCanvas", Sheet);
  });
  it("is drawn a square a tile, beyond the picture where the last one is", async () => {
    const sources = imagesThat(async () => {}, 2, 1);
    const { now } = shown(null, null);
    await shownAtLast();
    expect(sources).toEqual(["/api/palettes/p/maps/map/tiles"]);
    expect(now()).toMatchObject({ width: 12, height: 16 });
    expect(drawn).toEqual([[0, 0, 16, 16]]);
  });
  it("of a recipe that is tried out comes with its proposal, at the size of that recipe", async () => {
    const sources = imagesThat(async () => {}, 3, 2);
    const proposal = { tile_map: "AAAA", width: 20, height: 8 } as Proposal;
    const { now } = shown(proposal, { tile: { width: 8, height: 4 } } as Recipe);
    await shownAtLast();
    expect(sources).toEqual(["data:image/png;base64,AAAA"]);
    expect(now()).toMatchObject({ width: 20, height: 8 });
    expect(drawn).toEqual([[0, 0, 24, 8]]);
  });
  it("of a very large picture is smaller", async () => {
    imagesThat(async () => {}, 1, 1);
    const proposal = { tile_map: "AAAA", width: 8192, height: 2048 } as Proposal;
    const { now } = shown(proposal, RECIPE);
    await shownAtLast();
    expect(now()).toMatchObject({ width: 4096, height: 1024 });
    expect(drawn).toEqual([[0, 0, 4, 8]]);
  });
  it("is not asked for where there are no tiles, or none are wanted", async () => {
    const sources = imagesThat(async () => {});
    shown({ tile_map: "", width: 2, height: 1 } as Proposal, RECIPE);
    shown(null, null, false);
    used(() => useTileMap(PALETTE, { ...link, recipe: {} } as Link, null, null, true), undefined);
    await shownAtLast();
    expect(sources).toEqual([]);
  });
});
