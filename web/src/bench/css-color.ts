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
