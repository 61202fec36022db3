import { useEffect, useLayoutEffect, useRef, useState } from "react";
import { useScreen } from "../shell/store";
import { draw } from "./draw";
import { useCopies } from "./use-copies";
import { fitView } from "./view";

const MARGIN = 16;

/** A picture file as large as its box allows, drawn as pictures are on the stage. */
export function FittedPicture({ file, label }: { file: Blob; label: string }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const [image, setImage] = useState<HTMLImageElement | null>(null);
  const [size, setSize] = useState({ width: 0, height: 0 });
  const asOthers = useScreen((screen) => screen.asOthers);
  const copies = useCopies(image);
  useEffect(() => {
    const made = new Image();
    const address = URL.createObjectURL(file);
    let isOver = false;
    made.src = address;
    made.decode().then(
      () => !isOver && setImage(made),
      () => undefined,
    );
    return () => {
      isOver = true;
      URL.revokeObjectURL(address);
    };
  }, [file]);
  useLayoutEffect(() => {
    const box = canvas.current;
    if (!box) return;
    const observer = new ResizeObserver(() => setSize({ width: box.clientWidth, height: box.clientHeight }));
    observer.observe(box);
    return () => observer.disconnect();
  }, []);
  useLayoutEffect(() => {
    if (!image || !size.width) return;
    const [width, height] = [image.naturalWidth, image.naturalHeight];
    const view = fitView(width, height, size.width, size.height, MARGIN);
    draw(canvas.current, image, { size, view, width, height, from: 0, to: size.width, copies, asOthers });
  }, [image, size, copies, asOthers]);
  return <canvas ref={canvas} role="img" aria-label={label} className="size-full" />;
}
