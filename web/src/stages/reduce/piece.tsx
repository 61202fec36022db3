import { useQuery } from "@tanstack/react-query";
import { useLayoutEffect, useRef } from "react";
import { ask } from "../../api/queries";
import { fitting, isListTooShort } from "../../api/recipe";
import type { Recipe } from "../../api/types";
import { useLinked, useMenus, usePalette } from "../../bench/context";

const WIDTH = 60;
const HEIGHT = 36;

/** A piece of the linked picture as a recipe would paint it, each pixel twice as large. */
export function Piece({ recipe }: { recipe: Recipe }) {
  const palette = usePalette();
  const link = useLinked();
  const menus = useMenus();
  const canvas = useRef<HTMLCanvasElement>(null);
  const isShort = isListTooShort(recipe, menus);
  const { data, error } = useQuery({
    ...ask.piece(palette, link?.picture.id ?? "", fitting(recipe, menus)),
    enabled: link !== undefined && !isShort,
  });
  useLayoutEffect(() => {
    const pen = canvas.current?.getContext("2d");
    if (!pen || !data) return;
    pen.clearRect(0, 0, WIDTH, HEIGHT);
    pen.drawImage(data, 0, 0);
  }, [data]);
  if (error || isShort)
    return (
      <span className="grid h-[72px] place-items-center bg-well px-1 text-center text-tiny text-ink">
        {isShort ? "It needs a list first." : error?.message}
      </span>
    );
  return (
    <span aria-hidden="true" className={data ? "" : "animate-pulse"}>
      <canvas
        ref={canvas}
        width={WIDTH}
        height={HEIGHT}
        className="block h-[72px] w-[120px] bg-well [image-rendering:pixelated]"
      />
    </span>
  );
}
