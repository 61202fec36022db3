/** Questions about linked pictures: what a recipe would give, and how a result looks. */

import { queryOptions } from "@tanstack/react-query";
import { serialOf } from "./asking";
import { client, unwrap } from "./client";
import { fetchErrorMap, fetchIndices, fetchPiece, fetchPreview } from "./files";
import { forever, KEYS, type Stand } from "./keys";
import type { Draft, MapKind, Preview, Recipe } from "./types";

export const ofReductions = {
  /** What a draft would give: shown while it is the newest, and forgotten soon after. */
  preview: (palette: Stand, draft: Draft) =>
    queryOptions({
      queryKey: ["preview", palette.id, palette.revision, serialOf(draft)],
      gcTime: 5_000,
      structuralSharing: false,
      queryFn: ({ signal }) => fetchPreview(palette.id, draft, signal),
      ...forever,
    }),

  proof: (palette: Stand, picture: string, recipe: Recipe) =>
    queryOptions({
      queryKey: ["proof", palette.id, palette.revision, picture, recipe],
      gcTime: 60_000,
      retry: false,
      queryFn: ({ signal }) =>
        fetchPreview(palette.id, { kind: "reduce", picture, recipe } satisfies Draft, signal) as Promise<
          Extract<Preview, { kind: "reduce" }>
        >,
      ...forever,
    }),

  proofs: (picture: string) =>
    queryOptions({
      queryKey: KEYS.proofs(picture),
      queryFn: () =>
        unwrap(
          client.GET("/api/pictures/{picture_id}/proofs", { params: { path: { picture_id: picture } } }),
        ),
    }),

  proposedSize: (palette: Stand, picture: string, recipe: Recipe | null) =>
    queryOptions({
      queryKey: ["size", palette.id, picture, palette.revision, recipe],
      retry: false,
      queryFn: () =>
        unwrap(
          client.POST("/api/palettes/{palette_id}/previews/size", {
            params: { path: { palette_id: palette.id } },
            body: { picture, recipe: recipe as Recipe },
          }),
        ),
      ...forever,
    }),

  figures: (palette: Stand, picture: string) =>
    queryOptions({
      queryKey: ["figures", palette.id, picture, palette.revision],
      queryFn: () =>
        unwrap(
          client.GET("/api/palettes/{palette_id}/pictures/{picture_id}/figures", {
            params: { path: { palette_id: palette.id, picture_id: picture } },
          }),
        ),
      ...forever,
    }),

  curve: (palette: string, picture: string) =>
    queryOptions({
      queryKey: ["curve", picture],
      queryFn: () =>
        unwrap(
          client.GET("/api/palettes/{palette_id}/pictures/{picture_id}/curve", {
            params: { path: { palette_id: palette, picture_id: picture } },
          }),
        ),
      ...forever,
    }),

  indices: (palette: string, map: string | undefined) =>
    queryOptions({
      queryKey: ["indices", map],
      enabled: map !== undefined,
      gcTime: 60_000,
      queryFn: () => fetchIndices(palette, map ?? ""),
      ...forever,
    }),

  /** The original of a picture, decoded by the browser; `inGray` by its lightness alone, `lens` as seen through one. */
  original: (picture: string | undefined, inGray: boolean, lens: string | null = null) =>
    queryOptions({
      queryKey: ["original", picture, inGray, lens],
      placeholderData: (before: HTMLImageElement | undefined) => before,
      enabled: picture !== undefined,
      queryFn: async () => {
        const image = new Image();
        const form = lens ? `seen?lens=${encodeURIComponent(lens)}` : inGray ? "gray" : "image";
        image.src = `/api/pictures/${picture}/${form}`;
        await image.decode();
        return image;
      },
      ...forever,
    }),

  errorMap: (palette: Stand, picture: string | undefined, recipe: Recipe | null, kind: MapKind) =>
    queryOptions({
      queryKey: ["errors", palette.id, palette.revision, picture, recipe, kind],
      queryFn: async () => createImageBitmap(await fetchErrorMap(palette.id, picture ?? "", recipe, kind)),
    }),

  piece: (palette: Stand, picture: string, recipe: Recipe) =>
    queryOptions({
      queryKey: ["piece", palette.id, palette.revision, picture, recipe],
      gcTime: 60_000,
      retry: false,
      queryFn: async ({ signal }) => createImageBitmap(await fetchPiece(palette.id, picture, recipe, signal)),
      ...forever,
    }),
};
