/** Questions about the shelf: what stands there, what is found, what is at work. */

import { queryOptions } from "@tanstack/react-query";
import { client, unwrap } from "./client";
import { KEYS } from "./keys";

const PREPARING_MS = 1000;

export const ofTheShelf = {
  shelf: (trash = false, near: string | null = null) =>
    queryOptions({
      queryKey: [...KEYS.shelf, trash, near],
      queryFn: () =>
        unwrap(client.GET("/api/shelf", { params: { query: near === null ? { trash } : { trash, near } } })),
      retry: near === null ? 1 : false,
    }),

  /** For each word of a search, the palettes that have a swatch whose name holds it. */
  holding: (words: readonly string[], trash: boolean) =>
    queryOptions({
      queryKey: [...KEYS.shelf, "holding", words, trash],
      enabled: words.length > 0,
      queryFn: () =>
        unwrap(client.GET("/api/shelf/holding", { params: { query: { words: [...words], trash } } })),
    }),

  /** The pictures of a batch and what became of each; looked at anew while it is worked on. */
  batch: (job: string, isOpen: boolean) =>
    queryOptions({
      queryKey: [...KEYS.jobs, job, "pictures"],
      refetchInterval: isOpen ? 1000 : false,
      queryFn: () => unwrap(client.GET("/api/jobs/{job_id}/pictures", { params: { path: { job_id: job } } })),
    }),

  /** How much of what one may keep is in use; it changes with the shelf. */
  usage: () =>
    queryOptions({ queryKey: [...KEYS.shelf, "usage"], queryFn: () => unwrap(client.GET("/api/usage")) }),

  /** How far the first preparation is, 0..1, looked at until it is over; null where all is prepared. */
  preparing: () =>
    queryOptions({
      queryKey: ["preparing"],
      queryFn: async () => (await unwrap(client.GET("/api/preparing"))).share ?? null,
      refetchInterval: ({ state }) => (state.data == null ? false : PREPARING_MS),
      staleTime: Number.POSITIVE_INFINITY,
    }),

  /** Where a picture, a palette or a kept ramp is used; it changes with the shelf. */
  uses: (kind: "pictures" | "palettes" | "ramps", id: string) =>
    queryOptions({
      queryKey: [...KEYS.shelf, "uses", kind, id],
      queryFn: () =>
        unwrap(
          client.GET("/api/library/{kind}/{object_id}/uses", { params: { path: { kind, object_id: id } } }),
        ),
    }),
};
