import { useQuery } from "@tanstack/react-query";
import { useEffect, useLayoutEffect, useMemo, useRef, useState } from "react";
import { ask } from "../api/queries";
import type { Link, MapKind, Palette, Preview, Proposal, Recipe, Swatch } from "../api/types";
import { useLens } from "../lens/lens";
import { useScreen } from "../shell/store";
import { cssBytes } from "../ui/css-color";
import { type Copies, everyNth, LARGE_PIXELS, startPainter, WholePainter } from "./large";
import { lookupTable, paint } from "./lookup";

const AROUND = { light: 208, mid: 119, dark: 46 } as const;

/** The original of a linked picture, decoded by the browser; `inGray` by its lightness alone. */
export function useOriginal(picture: string | undefined, inGray = false) {
  const lens = useLens();
  const query = useQuery({
    ...ask.original(picture, inGray, lens.said),
  });
  return query.data ?? null;
}

/** canvas : the picture, a large one every nth pixel at first; copies : of a large one, the whole first, once they are there; version : counts paintings. */
export interface Painted {
  canvas: OffscreenCanvas | ImageBitmap;
  copies: Copies;
  version: number;
}

const NO_COPIES: Copies = [];

/**
 * The swatch under the pointer, a frame later than the strip knows it: painting a picture for it does not come between a pointer that
 * arrives and its press, and of several in a frame only the last is painted.
 */
function useHovered() {
  const [hovered, setHovered] = useState(() => useScreen.getState().hovered);
  useEffect(() => {
    let frame = 0;
    const look = () => {
      cancelAnimationFrame(frame);
      frame = requestAnimationFrame(() => setHovered(useScreen.getState().hovered));
    };
    look();
    const end = useScreen.subscribe((now, before) => now.hovered !== before.hovered && look());
    return () => {
      end();
      cancelAnimationFrame(frame);
    };
  }, []);
  return hovered;
}

/** The index map painted through the palette. */
export function usePainted(
  palette: string,
  link: Link | undefined,
  preview: Preview | null,
  swatches: Swatch[],
  inGray = false,
) {
  const kept = useQuery({
    ...ask.indices(palette, link?.maps[0]),
  });
  const hovered = useHovered();
  const dragging = useScreen((screen) => screen.dragging);
  const surround = useScreen((screen) => screen.surround);
  const lens = useLens();
  const source = useMemo(() => {
    if (preview?.kind === "reduce") {
      const { width, height, table } = preview.proposal;
      return { width, height, table, indices: preview.indices };
    }
    if (!link || !kept.data) return null;
    // A step that is not kept changes what the indices mean, not the indices.
    const after = preview?.proposal.tables.find((entry) => entry.picture === link.picture.id);
    return {
      width: link.width,
      height: link.height,
      table: after?.table ?? link.table,
      indices: kept.data,
    };
  }, [preview, link, kept.data]);
  const store = useRef<{ canvas: OffscreenCanvas; data: ImageData; isPainted: boolean } | null>(null);
  const [painted, setPainted] = useState<Painted | null>(null);
  const painter = useRef<WholePainter | null>(null);
  useEffect(() => () => painter.current?.close(), []);
  const isLarge = source !== null && source.width * source.height > LARGE_PIXELS;
  // Of what is painted at once: the whole, or of a large picture every nth pixel.
  const quick = useMemo(() => {
    if (!source) return null;
    return isLarge ? everyNth(source.width, source.height, source.indices) : source;
  }, [source, isLarge]);

  useLayoutEffect(() => {
    if (!source || !quick) return;
    let held = store.current;
    if (!held || held.canvas.width !== quick.width || held.canvas.height !== quick.height) {
      held = {
        canvas: new OffscreenCanvas(quick.width, quick.height),
        data: new ImageData(quick.width, quick.height),
        isPainted: false,
      };
      store.current = held;
    }
    const override = dragging ? { id: dragging.id, rgb: cssBytes(dragging.css) } : null;
    const words = lookupTable(source.table, swatches, override, hovered, AROUND[surround], inGray, lens.rgb);
    // The picture as it was stays until it can be seen through the lens: painting megapixels twice would be felt.
    if (lens.isWaiting() && held.isPainted) return;
    held.isPainted = true;
    const show = (canvas: Painted["canvas"], copies: Copies) =>
      setPainted((before) => ({ canvas, copies, version: (before?.version ?? 0) + 1 }));
    const showCopies = (copies: Copies) => {
      const smallest = copies.at(-1);
      if (smallest) show(smallest, copies);
    };
    if (isLarge) {
      painter.current ??= new WholePainter(startPainter);
      const copies = painter.current.paint(source, words, showCopies);
      if (copies) {
        showCopies(copies);
        return;
      }
    }
    paint(quick.indices, words, new Uint32Array(held.data.data.buffer));
    held.canvas.getContext("2d", { willReadFrequently: true })?.putImageData(held.data, 0, 0);
    show(held.canvas, NO_COPIES);
  }, [source, quick, isLarge, swatches, hovered, dragging, surround, inGray, lens]);
  return { painted: source ? painted : null, source, error: kept.error };
}

/** The error map as the server measures it, of the recipe that is tried out or of the kept picture. */
export function useErrorMap(
  palette: Palette,
  link: Link | undefined,
  recipe: Recipe | null,
  kind: MapKind | null,
) {
  const query = useQuery({
    ...ask.errorMap(palette, link?.picture.id, recipe, kind ?? "pixels"),
    enabled: kind !== null && link !== undefined,
    placeholderData: (before) => before,
  });
  return kind ? (query.data ?? null) : null;
}

const MOST_MAP_SIDE = 4096;

/** What a tile limit cost, a square a tile, at the picture's own size; of the proposal, or of the kept picture. */
export function useTileMap(
  palette: Palette,
  link: Link | undefined,
  proposed: Proposal | null,
  recipe: Recipe | null,
  wanted: boolean,
) {
  const inline = proposed?.tile_map ?? "";
  const size = (proposed ? recipe?.tile : link?.recipe.tile) ?? null;
  const query = useQuery({
    queryKey: ["tiles", link?.maps[0], inline, size],
    enabled: wanted && link !== undefined && size !== null && (inline !== "" || !proposed),
    placeholderData: (before) => before,
    queryFn: async () => {
      const image = new Image();
      image.src = inline
        ? `data:image/png;base64,${inline}`
        : `/api/palettes/${palette.id}/maps/${link?.maps[0]}/tiles`;
      await image.decode();
      const width = proposed?.width ?? link?.width ?? 1;
      const height = proposed?.height ?? link?.height ?? 1;
      // The last row and column of tiles may reach beyond the picture.
      const scale = Math.min(1, MOST_MAP_SIDE / Math.max(width, height));
      const canvas = new OffscreenCanvas(Math.round(width * scale), Math.round(height * scale));
      const pen = canvas.getContext("2d");
      if (pen) {
        pen.imageSmoothingEnabled = false;
        const wide = image.naturalWidth * (size?.width ?? 1) * scale;
        pen.drawImage(image, 0, 0, wide, image.naturalHeight * (size?.height ?? 1) * scale);
      }
      return canvas;
    },
  });
  return wanted ? (query.data ?? null) : null;
}
