/** A thread that paints whole index maps, so that megapixels keep no hand waiting. */

import { paint } from "./lookup";

/** number : of the order. indices : null where they are those of the order before. small : the size of the smaller painting. */
export interface Order {
  number: number;
  width: number;
  height: number;
  indices: Uint8Array | null;
  words: Uint32Array<ArrayBuffer>;
  small: { width: number; height: number };
}

export interface Answer {
  number: number;
  full: ImageBitmap;
  small: ImageBitmap;
}

let indices: Uint8Array = new Uint8Array();
let pixels: ImageData | null = null;

self.onmessage = async ({ data }: MessageEvent<Order>) => {
  const { width, height, words, small, number } = data;
  if (data.indices) indices = data.indices;
  if (pixels?.width !== width || pixels.height !== height) pixels = new ImageData(width, height);
  paint(indices, words, new Uint32Array(pixels.data.buffer));
  const full = await createImageBitmap(pixels);
  const made = await createImageBitmap(full, {
    resizeWidth: small.width,
    resizeHeight: small.height,
    resizeQuality: "medium",
  });
  const answer: Answer = { number, full, small: made };
  self.postMessage(answer, { transfer: [full, made] });
};
