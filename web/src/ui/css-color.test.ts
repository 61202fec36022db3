import { describe, expect, it } from "vitest";
import { cssOf, oklchCss, textOn } from "./css-color";

/** The three numbers of a CSS color, percent as shares. */
function numbers(css: string) {
  return [...css.matchAll(/-?\d+(?:\.\d+)?%?/g)]
    .slice(-3)
    .map(([text]) => (text.endsWith("%") ? Number.parseFloat(text) / 100 : Number(text)));
}

/** HSV to RGB as the textbook has it (Smith 1978): by the sector of the hue. */
function hsvToRgb(hue: number, saturation: number, value: number) {
  const sector = hue / 60;
  const chroma = value * saturation;
  const second = chroma * (1 - Math.abs((sector % 2) - 1));
  const [red, green, blue] = [
    [chroma, second, 0],
    [second, chroma, 0],
    [0, chroma, second],
    [0, second, chroma],
    [second, 0, chroma],
    [chroma, 0, second],
  ][Math.floor(sector) % 6] as [number, number, number];
  return [red, green, blue].map((part) => part + value - chroma);
}

/** HWB to RGB as CSS Color 4 has it: a pure hue, with white and black mixed in. */
function hwbToRgb(hue: number, white: number, black: number) {
  return hsvToRgb(hue, 1, 1).map((part) => part * (1 - white - black) + white);
}

describe("colors written as CSS for a slider's track", () => {
  it("writes HSV as the HWB of the same color", () => {
    for (const [hue, saturation, value] of [
      [0, 0, 0],
      [20, 0.5, 0.75],
      [130, 1, 1],
      [215, 0.25, 0.5],
      [355, 0.75, 0.25],
    ] as const) {
      const [h = 0, white = 0, black = 0] = numbers(cssOf("hsv", [hue, saturation, value]));
      hwbToRgb(h, white, black).forEach((part, place) => {
        expect(part).toBeCloseTo(hsvToRgb(hue, saturation, value)[place] as number, 3);
      });
    }
  });
  it("lets ink shares take away light", () => {
    expect(numbers(cssOf("cmyk", [0, 0, 0, 0.25]))).toEqual([0.75, 0.75, 0.75]);
    expect(numbers(cssOf("cmyk", [1, 0, 0, 0]))).toEqual([0, 1, 1]);
    expect(numbers(cssOf("cmyk", [0.2, 0.4, 0, 1]))).toEqual([0, 0, 0]);
  });
  it("writes rgb, hsl and lab as they are", () => {
    expect(cssOf("srgb", [0.5, 0, 1])).toBe("rgb(50.00% 0.00% 100.00%)");
    expect(cssOf("hsl", [210, 0.5, 0.25])).toBe("hsl(210.0 50.00% 25.00%)");
    expect(cssOf("lab-d65", [50, -20, 30])).toBe("lab(50.00 -20.00 30.00)");
  });
  it("takes anything else for OKLCh", () => {
    expect(cssOf("oklch", [0.7, 0.1, 60])).toBe(oklchCss([0.7, 0.1, 60]));
    expect(oklchCss([0.7, 0.1, 60])).toBe("oklch(0.7000 0.1000 60.00)");
  });
});

describe("text on a color", () => {
  it("has the greater of the two contrasts, against the definition in WCAG 2.2", () => {
    const channel = (byte: number) =>
      byte / 255 <= 0.04045 ? byte / 255 / 12.92 : ((byte / 255 + 0.055) / 1.055) ** 2.4;
    for (let red = 0; red < 256; red += 15)
      for (let green = 0; green < 256; green += 15)
        for (let blue = 0; blue < 256; blue += 51) {
          const hex = `#${[red, green, blue].map((byte) => byte.toString(16).padStart(2, "0")).join("")}`;
          const luminance = 0.2126 * channel(red) + 0.7152 * channel(green) + 0.0722 * channel(blue);
          const black = (luminance + 0.05) / 0.05;
          const white = 1.05 / (luminance + 0.05);
          expect(textOn(hex)).toBe(black > white ? "#000" : "#fff");
        }
    expect(textOn("#7d5ba6")).toBe("#fff");
  });
});
