import type { View } from "./view";

interface Side {
  size: { width: number; height: number };
  view: View | null;
  width: number;
  height: number;
  from: number;
  to: number;
}

/** Draw a picture of width × height into its view, between two places of the area; crisp from 100 % on. */
export function draw(target: HTMLCanvasElement | null, source: CanvasImageSource | null, side: Side) {
  const pen = target?.getContext("2d");
  const { size, view, width, height, from, to } = side;
  if (!target || !pen || !view || !size.width) return;
  const ratio = window.devicePixelRatio || 1;
  const wide = Math.round(size.width * ratio);
  const high = Math.round(size.height * ratio);
  if (target.width !== wide || target.height !== high) {
    target.width = wide;
    target.height = high;
  }
  pen.setTransform(ratio, 0, 0, ratio, 0, 0);
  pen.clearRect(0, 0, size.width, size.height);
  if (!source || to <= from) return;
  pen.save();
  pen.beginPath();
  pen.rect(from, 0, to - from, size.height);
  pen.clip();
  pen.fillStyle = checks(pen);
  pen.fillRect(view.x, view.y, width * view.zoom, height * view.zoom);
  pen.imageSmoothingEnabled = view.zoom < 1;
  pen.imageSmoothingQuality = view.zoom < 0.5 ? "medium" : "low";
  pen.drawImage(source, view.x, view.y, width * view.zoom, height * view.zoom);
  pen.restore();
}

let pattern: CanvasPattern | null = null;

/** The gray checks that stand for clear pixels. */
function checks(pen: CanvasRenderingContext2D): CanvasPattern | string {
  if (pattern) return pattern;
  const tile = new OffscreenCanvas(16, 16);
  const brush = tile.getContext("2d");
  if (!brush) return "#bbb";
  brush.fillStyle = "#c8c8c8";
  brush.fillRect(0, 0, 16, 16);
  brush.fillStyle = "#a8a8a8";
  brush.fillRect(0, 0, 8, 8);
  brush.fillRect(8, 8, 8, 8);
  pattern = pen.createPattern(tile, "repeat");
  return pattern ?? "#bbb";
}
