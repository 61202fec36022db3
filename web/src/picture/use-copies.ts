import { useEffect, useState } from "react";
import { type Copies, LARGE_PIXELS } from "./large";

const NONE: Copies = [];

/** The smaller copies of a large image, once a thread has made them; none of any other source. */
export function useCopies(image: CanvasImageSource | null): Copies {
  const [made, setMade] = useState<{ of: CanvasImageSource; copies: Copies } | null>(null);
  const isLarge =
    image instanceof HTMLImageElement && image.naturalWidth * image.naturalHeight > LARGE_PIXELS;
  useEffect(() => {
    if (!isLarge || typeof Worker === "undefined") return;
    const worker = new Worker(new URL("./copy-worker.ts", import.meta.url), { type: "module" });
    worker.onmessage = ({ data }: MessageEvent<ImageBitmap[]>) => {
      setMade({ of: image, copies: data });
      worker.terminate();
    };
    let isOver = false;
    createImageBitmap(image).then(
      (bitmap) => {
        if (isOver) bitmap.close();
        else worker.postMessage(bitmap, [bitmap]);
      },
      () => undefined,
    );
    return () => {
      isOver = true;
      worker.terminate();
    };
  }, [image, isLarge]);
  return isLarge && made?.of === image ? made.copies : NONE;
}
