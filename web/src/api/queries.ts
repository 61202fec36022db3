/** Every question to the server that is remembered: its key and its call, in one place. */

import { queryOptions } from "@tanstack/react-query";
import { serialOf } from "./asking";
import { client, unwrap } from "./client";
import type { ColorIn } from "./colors";
import { fetchDithered, fetchFile, lookInto } from "./files";
import { forever, KEYS, type Stand } from "./keys";
import { ofReductions } from "./reduction-queries";
import { ofTheShelf } from "./shelf-queries";
import type {
  ChecksRequest,
  Description,
  FileRequest,
  Operation,
  RampRecipe,
  Sample,
  Schemas,
  StepProposal,
} from "./types";

export { KEYS } from "./keys";

export const ask = {
  session: () =>
    queryOptions({ queryKey: ["session"], queryFn: () => unwrap(client.GET("/api/session")), ...forever }),

  /** Where one is signed in; asked anew whenever it is looked at. */
  account: () =>
    queryOptions({ queryKey: KEYS.account, queryFn: () => unwrap(client.GET("/api/account")), staleTime: 0 }),

  rampMenus: () =>
    queryOptions({
      queryKey: ["menus", "ramps"],
      queryFn: () => unwrap(client.GET("/api/menus/ramps")),
      ...forever,
    }),

  checkMenus: () =>
    queryOptions({
      queryKey: ["menus", "checks"],
      queryFn: () => unwrap(client.GET("/api/menus/checks")),
      ...forever,
    }),

  checkExample: (check: string) =>
    queryOptions({
      queryKey: ["menus", "checks", check],
      queryFn: () =>
        unwrap(client.GET("/api/menus/checks/{check_id}", { params: { path: { check_id: check } } })),
      ...forever,
    }),

  limitSets: () => queryOptions({ queryKey: KEYS.limits, queryFn: () => unwrap(client.GET("/api/limits")) }),

  /** What the checks say of a palette as it is shown. body : with whatever is tried out; of it the key is a number alone. */
  checks: (palette: Stand, body: ChecksRequest) =>
    queryOptions({
      queryKey: ["checks", palette.id, palette.revision, serialOf(body)],
      gcTime: 5_000,
      structuralSharing: false,
      queryFn: ({ signal }) =>
        unwrap(
          client.POST("/api/palettes/{palette_id}/checks", {
            params: { path: { palette_id: palette.id } },
            body,
            signal,
          }),
        ),
      ...forever,
    }),

  /** A ramp and the lanes asked for, drawn. */
  rampDrawn: (palette: Stand, body: Schemas["RampIn"]) =>
    queryOptions({
      queryKey: ["ramp-drawn", palette.id, palette.revision, body],
      gcTime: 5_000,
      structuralSharing: false,
      queryFn: ({ signal }) =>
        unwrap(
          client.POST("/api/palettes/{palette_id}/ramps", {
            params: { path: { palette_id: palette.id } },
            body,
            signal,
          }),
        ),
      ...forever,
    }),

  /** A color in every space of the editor and every notation. */
  description: (color: ColorIn) =>
    queryOptions({
      queryKey: ["describe", color.space, color.coords.join(), color.alpha, color.hold ?? null],
      gcTime: 30_000,
      queryFn: ({ signal }) =>
        unwrap(
          client.POST("/api/colors/describe", {
            body: {
              space: color.space,
              coords: [...color.coords],
              alpha: color.alpha,
              hold: color.hold ?? null,
            },
            signal,
          }),
        ) as Promise<Description>,
      ...forever,
    }),

  /** The color of a picture around a point. */
  sample: (picture: string, at: { x: number; y: number }, diameter: number) =>
    queryOptions({
      queryKey: ["sample", picture, at.x, at.y, diameter],
      gcTime: 5_000,
      queryFn: ({ signal }) =>
        unwrap(
          client.GET("/api/pictures/{picture_id}/sample", {
            params: { path: { picture_id: picture }, query: { x: at.x, y: at.y, diameter } },
            signal,
          }),
        ) as Promise<Sample>,
      ...forever,
    }),

  rampCheck: (palette: Stand, ramp: RampRecipe, ready: boolean) =>
    queryOptions({
      queryKey: ["ramp-check", palette.id, palette.revision, ramp],
      enabled: ready,
      retry: false,
      placeholderData: (before) => before,
      queryFn: () =>
        unwrap(
          client.POST("/api/palettes/{palette_id}/ramps/check", {
            params: { path: { palette_id: palette.id } },
            body: { ramp },
          }),
        ),
    }),

  rampMade: (palette: Stand, wish: Schemas["MakeIn"], ready: boolean) =>
    queryOptions({
      queryKey: ["ramp-made", palette.id, palette.revision, wish],
      enabled: ready,
      retry: false,
      placeholderData: (before) => before,
      queryFn: () =>
        unwrap(
          client.POST("/api/palettes/{palette_id}/ramps/make", {
            params: { path: { palette_id: palette.id } },
            body: wish,
          }),
        ),
    }),

  /** The steps of several ramps, four bytes each in base64. */
  rampStrips: (palette: Stand, ramps: RampRecipe[]) =>
    queryOptions({
      queryKey: ["ramp-strips", palette.id, palette.revision, ramps],
      placeholderData: (before: string[] | undefined) => before,
      queryFn: async () =>
        (
          await Promise.all(
            ramps.map((ramp) =>
              unwrap(
                client.POST("/api/palettes/{palette_id}/ramps", {
                  params: { path: { palette_id: palette.id } },
                  body: { ramp, lanes: [], compare: [], views: false },
                }),
              ),
            ),
          )
        ).map((answer) => answer.own.steps),
    }),

  rampFit: (palette: Stand, wish: Schemas["FitIn"] | null) =>
    queryOptions({
      queryKey: ["ramp-fit", palette.id, wish],
      enabled: wish !== null,
      retry: false,
      placeholderData: (before) => before,
      queryFn: () =>
        unwrap(
          client.POST("/api/palettes/{palette_id}/ramps/fit", {
            params: { path: { palette_id: palette.id } },
            body: wish as Schemas["FitIn"],
          }),
        ),
    }),

  rampReport: (palette: Stand, format: string, wish: Schemas["RampFileIn"]) =>
    queryOptions({
      queryKey: ["ramp-report", palette.id, palette.revision, format, wish],
      retry: false,
      placeholderData: (before) => before,
      queryFn: () =>
        unwrap(
          client.POST("/api/palettes/{palette_id}/ramps/files/{format_id}/report", {
            params: { path: { palette_id: palette.id, format_id: format } },
            body: wish,
          }),
        ),
    }),

  rampDithered: (palette: Stand, wish: Schemas["DitheredIn"] | null) =>
    queryOptions({
      queryKey: ["ramp-dithered", palette.id, palette.revision, wish],
      enabled: wish !== null,
      retry: false,
      placeholderData: (before) => before,
      queryFn: async () => createImageBitmap(await fetchDithered(palette.id, wish as Schemas["DitheredIn"])),
    }),

  menus: () =>
    queryOptions({ queryKey: ["menus"], queryFn: () => unwrap(client.GET("/api/menus")), ...forever }),

  ...ofTheShelf,

  recipes: () => queryOptions({ queryKey: KEYS.recipes, queryFn: () => unwrap(client.GET("/api/recipes")) }),

  jobs: () => queryOptions({ queryKey: KEYS.jobs, queryFn: () => unwrap(client.GET("/api/jobs")) }),

  palette: (id: string) =>
    queryOptions({
      queryKey: KEYS.palette(id),
      // Comparing twenty thousand swatches with those of before would take longer than drawing them.
      structuralSharing: false,
      queryFn: () =>
        unwrap(client.GET("/api/palettes/{palette_id}", { params: { path: { palette_id: id } } })),
    }),

  history: (id: string) =>
    queryOptions({
      queryKey: KEYS.history(id),
      queryFn: () =>
        unwrap(client.GET("/api/palettes/{palette_id}/history", { params: { path: { palette_id: id } } })),
    }),

  /** A kept ramp as a document of its own; with the swatches that its stops follow, or with plain colors. */
  rampDocument: (palette: string, ramp: string, tied: boolean) =>
    queryOptions({
      queryKey: ["ramp-document", palette, ramp, tied],
      queryFn: () =>
        unwrap(
          client.GET("/api/palettes/{palette_id}/ramps/{ramp_id}/document", {
            params: { path: { palette_id: palette, ramp_id: ramp }, query: { tied } },
          }),
        ),
    }),

  /** The lossless document of a palette, as it is or as it was at a step. */
  document: (id: string, step?: number) =>
    queryOptions({
      queryKey: ["document", id, step],
      ...(step === undefined ? {} : forever),
      queryFn: async () => {
        const query = step === undefined ? {} : { step };
        const params = { path: { palette_id: id }, query };
        return (await unwrap(client.GET("/api/palettes/{palette_id}/document", { params }))).document;
      },
    }),

  parsed: (text: string) =>
    queryOptions({
      queryKey: ["parse", text],
      enabled: text !== "",
      retry: false,
      queryFn: () => unwrap(client.POST("/api/colors/parse", { body: { text } })),
      ...forever,
    }),

  compared: (first: string, second: string) =>
    queryOptions({
      queryKey: ["compare", first, second],
      queryFn: () => unwrap(client.GET("/api/colors/compare", { params: { query: { first, second } } })),
      ...forever,
    }),

  companions: (base: string, scheme: string, spread: number | null, count: number | null) =>
    queryOptions({
      queryKey: ["companions", base, scheme, spread, count],
      queryFn: () =>
        unwrap(client.GET("/api/colors/companions", { params: { query: { base, scheme, spread, count } } })),
    }),

  mixed: (texts: string[], parts: number[], steps: number) =>
    queryOptions({
      queryKey: ["mix", texts, parts, steps],
      retry: false,
      queryFn: () => unwrap(client.POST("/api/colors/mix", { body: { texts, parts, steps } })),
    }),

  matches: (palette: Stand, other: { id: string; document: Record<string, unknown> } | null) =>
    queryOptions({
      queryKey: ["match", palette.id, palette.revision, other?.id],
      enabled: other !== null,
      queryFn: () =>
        unwrap(
          client.POST("/api/palettes/{palette_id}/match", {
            params: { path: { palette_id: palette.id } },
            body: { document: other?.document ?? {} },
          }),
        ),
    }),

  mergeTree: (palette: Stand, ids: string[] | null) =>
    queryOptions({
      queryKey: ["merge-tree", palette.id, palette.revision, ids],
      queryFn: () =>
        unwrap(
          client.POST("/api/palettes/{palette_id}/merge-tree", {
            params: { path: { palette_id: palette.id } },
            body: { ids },
          }),
        ),
    }),

  /** What an operation would give, asked outside of the bench's own preview. */
  proposed: (palette: Stand | null, operation: Operation | null, key: readonly unknown[]) =>
    queryOptions({
      queryKey: ["proposed", palette?.id, palette?.revision, ...key],
      enabled: palette !== null && operation !== null,
      retry: false,
      queryFn: async () =>
        (await unwrap(
          client.POST("/api/palettes/{palette_id}/operations/preview", {
            params: { path: { palette_id: palette?.id ?? "" } },
            body: { operation: operation as Operation },
          }),
        )) as StepProposal,
    }),

  ...ofReductions,

  report: (palette: Stand, format: string, request: FileRequest) =>
    queryOptions({
      queryKey: ["report", palette.id, palette.revision, format, request],
      retry: false,
      queryFn: () =>
        unwrap(
          client.POST("/api/palettes/{palette_id}/files/{format_id}/report", {
            params: { path: { palette_id: palette.id, format_id: format } },
            body: request,
          }),
        ),
    }),

  file: (palette: Stand, format: string, request: FileRequest) =>
    queryOptions({
      queryKey: ["file", palette.id, palette.revision, format, request],
      retry: false,
      queryFn: () => fetchFile(palette.id, format, request),
    }),

  found: (file: File, colors: number, columns: readonly string[] | null) =>
    queryOptions({
      queryKey: ["import", file.name, file.size, file.lastModified, colors, columns],
      gcTime: 60_000,
      retry: false,
      queryFn: () => lookInto(file, colors, columns),
      ...forever,
    }),
};
