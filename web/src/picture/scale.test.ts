import { describe, expect, it } from "vitest";
import { copiesOf, numberOf, type Pixels, scaled } from "./scale";

const light = (value: number) => {
  const part = value / 255;
  return part <= 0.04045 ? part / 12.92 : ((part + 0.055) / 1.055) ** 2.4;
};

function picture(width: number, height: number, of: (x: number, y: number) => readonly number[]): Pixels {
  const data = new Uint8ClampedArray(width * height * 4);
  for (let y = 0; y < height; y++) for (let x = 0; x < width; x++) data.set(of(x, y), (y * width + x) * 4);
  return { width, height, data };
}

const whole = ({ width, height }: Pixels) => ({ x: 0, y: 0, width, height });
const noise = (x: number, y: number) => [
  (x * 97 + y * 31) % 256,
  (x * 13 + y * 53) % 256,
  (x * y * 7) % 256,
  255,
];

describe("numbers and light", () => {
  it("go back to the number that they were, and to the nearest between", () => {
    for (let value = 0; value < 256; value++) expect(numberOf(light(value))).toBe(value);
    for (let value = 0; value < 255; value++) {
      expect(numberOf(light(value + 0.499))).toBe(value);
      expect(numberOf(light(value + 0.501))).toBe(value + 1);
    }
    expect(numberOf(3)).toBe(255);
  });
});

describe("a picture at another size", () => {
  it("is the same at its own, and by whole steps", () => {
    const source = picture(7, 5, noise);
    expect(scaled(source, whole(source), 7, 5)).toEqual(source.data);
    const large = picture(21, 15, (x, y) => noise(Math.floor(x / 3), Math.floor(y / 3)));
    expect(scaled(source, whole(source), 21, 15)).toEqual(large.data);
    const part = picture(2, 3, (x, y) => noise(x + 4, y + 1));
    expect(scaled(source, { x: 4, y: 1, width: 2, height: 3 }, 2, 3)).toEqual(part.data);
  });
  it("is half the light of black and white, not half the number", () => {
    const board = picture(8, 8, (x, y) => ((x + y) % 2 ? [255, 255, 255, 255] : [0, 0, 0, 255]));
    expect([...scaled(board, whole(board), 1, 1)]).toEqual([188, 188, 188, 255]);
    const half = picture(8, 8, (x, y) => ((x + y) % 2 ? [255, 255, 255, 255] : [0, 0, 0, 0]));
    expect([...scaled(half, whole(half), 1, 1)]).toEqual([255, 255, 255, 128]);
  });
  it("is by areas, each old pixel as far as it lies under a new one", () => {
    const source = picture(3, 1, (x) => [[0, 100, 200][x] as number, 0, 0, 255]);
    const [first, second] = [(light(0) + 0.5 * light(100)) / 1.5, (0.5 * light(100) + light(200)) / 1.5].map(
      numberOf,
    );
    expect([...scaled(source, whole(source), 2, 1)]).toEqual([first, 0, 0, 255, second, 0, 0, 255]);
  });
  it("is clear as far as it reaches beyond the picture", () => {
    const source = picture(2, 2, () => [90, 80, 70, 255]);
    const made = scaled(source, { x: -1, y: 0, width: 4, height: 2 }, 4, 2);
    expect([...made.slice(0, 16)]).toEqual([0, 0, 0, 0, 90, 80, 70, 255, 90, 80, 70, 255, 0, 0, 0, 0]);
    expect([...scaled(source, { x: 1.5, y: 0, width: 1, height: 1 }, 1, 1)]).toEqual([90, 80, 70, 128]);
  });
});

describe("smaller and smaller copies", () => {
  it("are halves, down to so many pixels, with the light of the whole", () => {
    const source = picture(50, 30, noise);
    const made = copiesOf(source, 100);
    expect(made.map(({ width, height }) => [width, height])).toEqual([
      [50, 30],
      [25, 15],
      [13, 8],
      [7, 4],
    ]);
    const mean = ({ data }: Pixels) => {
      let sum = 0;
      for (let at = 0; at < data.length; at += 4) sum += light(data[at] as number);
      return (4 * sum) / data.length;
    };
    for (const copy of made) expect(mean(copy)).toBeCloseTo(mean(source), 2);
    expect(copiesOf(picture(3, 1, noise), 1).map(({ width }) => width)).toEqual([3]);
  });
});
