/** A thread that makes the smaller copies of one large picture. */

import { bitmapsOf } from "./copies";

self.onmessage = async ({ data }: MessageEvent<ImageBitmap>) => {
  const sheet = new OffscreenCanvas(data.width, data.height);
  const pen = sheet.getContext("2d", { willReadFrequently: true });
  pen?.drawImage(data, 0, 0);
  data.close();
  const pixels = pen?.getImageData(0, 0, sheet.width, sheet.height);
  const copies = pixels ? await bitmapsOf(pixels) : [];
  self.postMessage(copies, { transfer: copies });
};
