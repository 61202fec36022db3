let probe: CanvasRenderingContext2D | null = null;

/** 8-bit sRGB of a CSS color, by the browser's own engine: only for showing a color while a control moves. */
export function cssBytes(css: string): [number, number, number] {
  probe ??= new OffscreenCanvas(1, 1).getContext("2d", {
    willReadFrequently: true,
  }) as unknown as CanvasRenderingContext2D;
  probe.clearRect(0, 0, 1, 1);
  probe.fillStyle = css;
  probe.fillRect(0, 0, 1, 1);
  const [red = 0, green = 0, blue = 0] = probe.getImageData(0, 0, 1, 1).data;
  return [red, green, blue];
}

export function oklchCss([lightness, chroma, hue]: readonly [number, number, number]) {
  return `oklch(${lightness.toFixed(4)} ${chroma.toFixed(4)} ${hue.toFixed(2)})`;
}

/** Coordinates as CSS that looks like them, for the track of a slider: what is kept comes from the server, and so does the form. */
export function cssOf(form: string, coords: readonly number[]): string {
  return form.replace(/\{(\d)\}/g, (_, place) => (coords[Number(place)] ?? 0).toFixed(5));
}

const linear = (byte: number) => (byte <= 10.31475 ? byte / 3294.6 : ((byte / 255 + 0.055) / 1.055) ** 2.4);

/** Black or white, whichever has more contrast on the color by WCAG 2.2: always at least 4.58. */
export function textOn(css: string): "#000" | "#fff" {
  const hex = /^#([0-9a-f]{2})([0-9a-f]{2})([0-9a-f]{2})/i.exec(css);
  const [red, green, blue] = hex ? hex.slice(1).map((pair) => parseInt(pair, 16)) : cssBytes(css);
  const luminance = 0.2126 * linear(red ?? 0) + 0.7152 * linear(green ?? 0) + 0.0722 * linear(blue ?? 0);
  return (luminance + 0.05) ** 2 > 1.05 * 0.05 ? "#000" : "#fff";
}
