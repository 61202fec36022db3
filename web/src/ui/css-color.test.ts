import { describe, expect, it } from "vitest";
import { cssOf, oklchCss, textOn } from "./css-color";

describe("colors written as CSS for a slider's track", () => {
  it("are the form that a space gives, with the coordinates in their places", () => {
    expect(cssOf("hsl({0} calc({1} * 100%) calc({2} * 100%))", [210, 0.5, 0.25])).toBe(
      "hsl(210.00000 calc(0.50000 * 100%) calc(0.25000 * 100%))",
    );
    expect(cssOf("rgb(calc((1 - {0}) * (1 - {3}) * 255) 0 0)", [0.25, 0, 0, 1])).toBe(
      "rgb(calc((1 - 0.25000) * (1 - 1.00000) * 255) 0 0)",
    );
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
