/** Pictures of so many pixels that painting them all is felt: a smaller one is painted at once, the whole by a thread of its own. */

import type { Answer, Order } from "./paint-worker";

export const LARGE_PIXELS = 3_000_000;
export const SMALL_PIXELS = 1_500_000;
/** A painting that is followed by another one sooner is not worth all pixels. */
const REST_MS = 150;

export interface Small {
  width: number;
  height: number;
  indices: Uint8Array;
}

/** Every nth pixel of every nth row, from the middle of n × n. */
export function everyNth(width: number, height: number, indices: Uint8Array): Small {
  const step = Math.max(1, Math.ceil(Math.sqrt((width * height) / SMALL_PIXELS)));
  const wide = Math.max(1, Math.round(width / step));
  const high = Math.max(1, Math.round(height / step));
  const columns = Int32Array.from({ length: wide }, (_, x) => Math.floor(((x + 0.5) * width) / wide));
  const small = new Uint8Array(wide * high);
  for (let y = 0; y < high; y++) {
    const row = Math.floor(((y + 0.5) * height) / high) * width;
    for (let x = 0; x < wide; x++) small[y * wide + x] = indices[row + (columns[x] as number)] as number;
  }
  return { width: wide, height: high, indices: small };
}

/** A picture in all its pixels and smaller and smaller copies, each pixel the mean light of those it stands for; the whole first. */
export type Copies = readonly ImageBitmap[];

/** Paints one index map through one table after the other; what is not wanted any more is not painted. */
export class WholePainter {
  private worker: Worker | null = null;
  private resting: ReturnType<typeof setTimeout> | undefined;
  private last: { key: string; copies: Copies } | null = null;
  /** Counts what was asked for: an answer to anything but the newest is for another picture, or other colors. */
  private newest = 0;
  private known: Uint8Array | null = null;

  constructor(private readonly start: () => Worker | null) {}

  /** The painting, where it was the last one; otherwise it is handed to `take` when it is there, unless another one is asked for. */
  paint(
    { width, height, indices }: Small,
    words: Uint32Array<ArrayBuffer>,
    take: (copies: Copies) => void,
  ): Copies | null {
    const key = `${words.join()}`;
    if (this.known !== indices) this.last = null;
    const number = ++this.newest;
    clearTimeout(this.resting);
    if (this.last?.key === key) return this.last.copies;
    this.resting = setTimeout(() => {
      this.worker ??= this.start();
      if (!this.worker) return;
      const order: Order = {
        number,
        width,
        height,
        words,
        indices: this.known === indices ? null : indices,
      };
      this.known = indices;
      this.worker.onmessage = ({ data }: MessageEvent<Answer>) => {
        if (data.number !== this.newest) return;
        this.last = { key, copies: data.copies };
        take(data.copies);
      };
      this.worker.postMessage(order);
    }, REST_MS);
    return null;
  }

  close() {
    clearTimeout(this.resting);
    this.worker?.terminate();
    this.worker = null;
    this.known = null;
    this.last = null;
  }
}

/** The thread that paints; none where there are no such threads. */
export const startPainter = () =>
  typeof Worker === "undefined"
    ? null
    : new Worker(new URL("./paint-worker.ts", import.meta.url), { type: "module" });
