/** A large picture and its smaller copies as what a canvas draws; made in threads of their own. */

import { SMALL_PIXELS } from "./large";
import { copiesOf } from "./scale";

export function bitmapsOf(pixels: ImageData): Promise<ImageBitmap[]> {
  return Promise.all(
    copiesOf(pixels, SMALL_PIXELS).map(({ data, width, height }) =>
      createImageBitmap(new ImageData(data as Uint8ClampedArray<ArrayBuffer>, width, height)),
    ),
  );
}
