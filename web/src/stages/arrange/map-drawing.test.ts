import { describe, expect, it, vi } from "vitest";
import type { Swatch } from "../../api/types";
import * as css from "../../ui/css-color";
import { type Dot, dotAt, dotsIn, drawDots, drawSelected, linksOf, pieces } from "./map-drawing";

const dot = (id: string, x: number, y: number, more: Partial<Swatch> = {}): Dot => ({
  swatch: { id, hex: `#${id}`, nearest: null, nearest_delta: null, ...more } as Swatch,
  index: 0,
  x,
  y,
  r: 5,
});

/** What a pen was told to draw: fills as [color, x, y, radius], lines as [color, number of them]. */
function recorded(work: (pen: CanvasRenderingContext2D) => void) {
  const made: (string | number)[][] = [];
  let at: number[] = [];
  let lines = 0;
  const pen = {
    beginPath: () => {
      lines = 0;
    },
    arc: (x: number, y: number, r: number) => {
      at = [x, y, r];
    },
    fill() {
      made.push([(this as unknown as { fillStyle: string }).fillStyle, ...at]);
    },
    moveTo: () => undefined,
    lineTo: () => {
      lines++;
    },
    stroke() {
      made.push([(this as unknown as { strokeStyle: string }).strokeStyle, lines]);
    },
  };
  work(pen as unknown as CanvasRenderingContext2D);
  return made;
}

describe("the dots of the map", () => {
  const dots = [dot("a", 10, 10), dot("b", 14, 10), dot("c", 100, 40)];
  const ink = { ground: "ground", ink: "ink", css: (hex: string) => `seen ${hex}`, rgb: vi.fn() };

  it("are found where they are seen: the last that was drawn, and those that are selected over all", () => {
    expect(dotAt(dots, new Set(), 12, 10)?.swatch.id).toBe("b");
    expect(dotAt(dots, new Set(["a"]), 12, 10)?.swatch.id).toBe("a");
    expect(dotAt(dots, new Set(["a", "b"]), 12, 10)?.swatch.id).toBe("b");
    expect(dotAt(dots, new Set(), 106, 40)?.swatch.id).toBe("c");
    expect(dotAt(dots, new Set(), 107, 40)).toBeNull();
  });
  it("are taken by a rectangle that touches them", () => {
    const ids = (left: number, top: number, width: number, height: number) =>
      dotsIn(dots, { left, top, width, height }).map(({ swatch }) => swatch.id);
    expect(ids(18, 8, 60, 60)).toEqual(["b"]);
    expect(ids(0, 0, 200, 200)).toEqual(["a", "b", "c"]);
    expect(ids(30, 0, 40, 200)).toEqual([]);
    expect(ids(90, 20, 20, 14)).toEqual([]);
  });
  it("are seen through the lens, with a rim; selected ones again with a ring", () => {
    const plain = recorded((pen) =>
      drawDots(
        pen,
        dots.slice(0, 1),
        [
          [
            { x: 0, y: 0 },
            { x: 1, y: 1 },
          ],
        ],
        ink,
      ),
    );
    expect(plain).toEqual([
      ["ground", 10, 10, 6],
      ["seen #a", 10, 10, 5],
      ["#fff", 1],
      ["#000", 1],
    ]);
    expect(recorded((pen) => drawSelected(pen, dots, new Set(["c"]), ink))).toEqual([
      ["ink", 100, 40, 9],
      ["ground", 100, 40, 7],
      ["seen #c", 100, 40, 5],
    ]);
  });
  it("are set pixel by pixel where they are more than a thousand, and look the same", () => {
    const data = new Uint8ClampedArray(40 * 40 * 4);
    const put = vi.fn();
    const pen = {
      canvas: { width: 40, height: 40 },
      getTransform: () => ({ a: 2, e: 0, f: 0 }),
      createImageData: () => ({ data }),
      putImageData: put,
    } as unknown as CanvasRenderingContext2D;
    const many = Array.from({ length: 1001 }, (_, place) =>
      dot(`${place}`, 10, 10, { rgb: [1, 2, 3] } as Partial<Swatch>),
    );
    const colors = { ink: [9, 9, 9], ground: [200, 200, 200] };
    vi.spyOn(css, "cssBytes").mockImplementation(
      (name) => colors[name as keyof typeof colors] as [number, number, number],
    );
    drawSelected(pen, many, new Set(many.map(({ swatch }) => swatch.id)), {
      ...ink,
      rgb: (red, green, blue) => [red, green, blue],
    });
    expect(put).toHaveBeenCalledOnce();
    const at = (x: number, y: number) => Array.from(data.slice((y * 40 + x) * 4, (y * 40 + x) * 4 + 4));
    // A dot of 5, twice as fine: 10 pixels of color, up to 14 of the ground, up to 18 of ink.
    expect([20, 30, 31, 34, 35, 38, 39].map((x) => at(x, 20)[0])).toEqual([1, 1, 200, 200, 9, 9, 0]);
    expect([2, 1].map((y) => at(20, y))).toEqual([
      [9, 9, 9, 255],
      [0, 0, 0, 0],
    ]);
  });
  it("are linked to their nearest where that is near enough and drawn", () => {
    const near = [
      dot("a", 0, 0, { nearest: 1, nearest_delta: 3 }),
      dot("b", 9, 9, { nearest: 2, nearest_delta: 1 }),
    ];
    const shown = [...near.map(({ swatch }) => swatch), { id: "clear" } as Swatch];
    expect(linksOf(near, shown, 3, null)).toEqual([[near[0], near[1]]]);
    expect(linksOf(near, shown, 2.9, null)).toEqual([]);
  });
});

const HUES = { left: 10, right: 110 };

describe("a link between two dots of the map", () => {
  it("is one line where that is the shorter way", () => {
    const from = { x: 30, y: 0 };
    const to = { x: 70, y: 50 };
    expect(pieces(from, to, HUES)).toEqual([[from, to]]);
    expect(pieces(from, to, null)).toEqual([[from, to]]);
  });
  it("goes out at one end of the hue and comes in at the other where that is shorter", () => {
    const red = { x: 15, y: 20 };
    const pink = { x: 95, y: 40 };
    for (const found of [pieces(red, pink, HUES), pieces(pink, red, HUES)]) {
      // 5 from the left end and 15 from the right one: a quarter of the way down is passed at the edge.
      expect(found).toEqual([
        [red, { x: 10, y: 25 }],
        [pink, { x: 110, y: 25 }],
      ]);
    }
  });
  it("never wraps a neutral, which has no hue", () => {
    const gray = { x: 5, y: 0 };
    const pink = { x: 105, y: 9 };
    expect(pieces(gray, pink, HUES)).toEqual([[gray, pink]]);
  });
});
