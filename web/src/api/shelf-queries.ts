/** Questions about the shelf: what stands there, what is found, what is at work. */

import { infiniteQueryOptions, queryOptions } from "@tanstack/react-query";
import { client, unwrap } from "./client";
import { KEYS } from "./keys";
import type { PaletteCard, PictureCard, RampCard } from "./types";

const PREPARING_MS = 1000;
/** As many cards are fetched by their ids at once. */
const MOST_NAMED = 100;

/** What is looked for on the shelf, and how it is sorted; the search is read by the server. */
export interface Looking {
  q: string;
  sort: "newest" | "name" | "count";
  trash: boolean;
}

const FIRST_PAGE = 60;
const FURTHER_PAGE = 200;
type Wish = Partial<Omit<Looking, "sort">> & {
  sort?: Looking["sort"] | "latest";
  cursor?: string;
  limit?: number;
};

const FETCH = {
  palettes: (query: Wish, signal: AbortSignal) =>
    unwrap(client.GET("/api/shelf/palettes", { params: { query }, signal })),
  ramps: (query: Wish, signal: AbortSignal) =>
    unwrap(client.GET("/api/shelf/ramps", { params: { query }, signal })),
  pictures: (query: Wish, signal: AbortSignal) =>
    unwrap(client.GET("/api/shelf/pictures", { params: { query }, signal })),
};
const FETCH_NAMED = {
  palettes: (ids: string, signal: AbortSignal) =>
    unwrap(client.GET("/api/shelf/palettes/named", { params: { query: { ids } }, signal })),
  pictures: (ids: string, signal: AbortSignal) =>
    unwrap(client.GET("/api/shelf/pictures/named", { params: { query: { ids } }, signal })),
};
export interface CardOf {
  palettes: PaletteCard;
  ramps: RampCard;
  pictures: PictureCard;
}
export type Cards = keyof CardOf;
export interface PageOf<Kind extends Cards> {
  cards: CardOf[Kind][];
  next: string | null;
  found: number;
  all: number;
}

export const ofTheShelf = {
  /** Cards of a kind, page by page. */
  pages: <Kind extends Cards>(kind: Kind, looking: Looking) =>
    infiniteQueryOptions({
      queryKey: [...KEYS.shelf, kind, looking] as const,
      queryFn: ({ pageParam, signal }): Promise<PageOf<Kind>> =>
        FETCH[kind](
          { ...looking, cursor: pageParam, limit: pageParam ? FURTHER_PAGE : FIRST_PAGE },
          signal,
        ) as Promise<PageOf<Kind>>,
      initialPageParam: "",
      getNextPageParam: (last: PageOf<Kind>) => last.next,
      retry: looking.q === "" ? 1 : false,
    }),

  /** The cards that were changed last, of those that are looked for: to choose one of them. */
  cards: <Kind extends Cards>(kind: Kind, q = "") =>
    queryOptions({
      queryKey: [...KEYS.shelf, "choice", kind, q],
      queryFn: ({ signal }): Promise<PageOf<Kind>> =>
        FETCH[kind]({ q, sort: "latest", limit: FIRST_PAGE }, signal) as Promise<PageOf<Kind>>,
    }),

  /** Cards by their ids, those that are on the shelf. */
  named: <Kind extends keyof typeof FETCH_NAMED>(kind: Kind, ids: readonly string[]) =>
    queryOptions({
      queryKey: [...KEYS.shelf, "named", kind, ids],
      enabled: ids.length > 0,
      queryFn: async ({ signal }): Promise<CardOf[Kind][]> => {
        const cards: CardOf[Kind][] = [];
        for (let first = 0; first < ids.length; first += MOST_NAMED) {
          const page = await FETCH_NAMED[kind](ids.slice(first, first + MOST_NAMED).join(","), signal);
          cards.push(...(page.cards as CardOf[Kind][]));
        }
        return cards;
      },
    }),

  /** The ramps that a palette keeps, as cards. */
  rampsOf: (palette: string) =>
    queryOptions({
      queryKey: [...KEYS.shelf, "ramps of", palette],
      queryFn: async () =>
        (
          await unwrap(
            client.GET("/api/shelf/palettes/{palette_id}/ramps", {
              params: { path: { palette_id: palette } },
            }),
          )
        ).cards,
    }),

  /** The ids of everything that is looked for. */
  foundIds: (q: string, trash: boolean) =>
    queryOptions({
      queryKey: [...KEYS.shelf, "found", q, trash],
      queryFn: () => unwrap(client.GET("/api/shelf/ids", { params: { query: { q, trash } } })),
      staleTime: 0,
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
