/** A thread that paints whole index maps, so that megapixels keep no hand waiting. */

import { bitmapsOf } from "./copies";
import { paint } from "./lookup";

/** number : of the order. indices : null where they are those of the order before. */
export interface Order {
  number: number;
  width: number;
  height: number;
  indices: Uint8Array | null;
  words: Uint32Array<ArrayBuffer>;
}

export interface Answer {
  number: number;
  copies: ImageBitmap[];
}

let indices: Uint8Array = new Uint8Array();
let pixels: ImageData | null = null;

self.onmessage = async ({ data }: MessageEvent<Order>) => {
  const { width, height, words, number } = data;
  if (data.indices) indices = data.indices;
  if (pixels?.width !== width || pixels.height !== height) pixels = new ImageData(width, height);
  paint(indices, words, new Uint32Array(pixels.data.buffer));
  const copies = await bitmapsOf(pixels);
  const answer: Answer = { number, copies };
  self.postMessage(answer, { transfer: copies });
};
