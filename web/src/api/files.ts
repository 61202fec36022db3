/** What goes and comes as bytes: files, frames of index bytes, pictures. */

import { client, unwrap } from "./client";
import { get, isAway, post, rest, upload } from "./request";
import type {
  ArchiveTaken,
  Draft,
  FileRequest,
  Import,
  Job,
  MapKind,
  Picture,
  Preview,
  Proposal,
  Recipe,
  Schemas,
  StepProposal,
} from "./types";

const LOOK_MS = 2_000;
const MOST_TRIES = 4;

/** Until the server answers again, whatever it says. */
async function untilReached(signal: AbortSignal) {
  for (;;) {
    await rest(LOOK_MS, signal);
    try {
      await get("/api/health", signal);
      return;
    } catch (error) {
      if (!isAway(error)) return;
    }
  }
}

/**
 * Bring a picture in, with progress 0..1. Where it is broken off because the server cannot be reached, it waits until that is over
 * and is sent again from its beginning; `onWait` hears of it. What is broken off although the server is there is given up.
 */
export async function uploadPicture(
  file: File,
  {
    onProgress,
    onWait,
    signal,
  }: { onProgress: (share: number) => void; onWait: () => void; signal: AbortSignal },
): Promise<Picture> {
  for (let tries = 1; ; tries++) {
    try {
      // Whether an earlier one came through is not known here: the server does not keep the same picture twice then.
      return await upload("/api/pictures", file, tries > 1 ? { again: "true" } : {}, { onProgress, signal });
    } catch (error) {
      if (signal.aborted || !isAway(error) || tries >= MOST_TRIES) throw error;
      onWait();
      await untilReached(signal);
    }
  }
}

/**
 * What a file holds; a picture of many colors is also offered reduced to `colors`, a table is read by the meanings of its
 * `columns` where they were chosen. Nothing is stored.
 */
export function lookInto(
  file: File,
  colors: number,
  columns: readonly string[] | null = null,
): Promise<Import> {
  return upload("/api/imports", file, {
    colors: String(colors),
    ...(columns ? { columns: columns.join() } : {}),
  });
}

/** Bring a library archive in; answers what it brought, or the job that does it where it is large. */
export function takeArchive(file: File): Promise<ArchiveTaken | Job> {
  return upload("/api/library/archive", file);
}

/** A proposal and its index bytes: a uint32 length, JSON of that length, then one byte a pixel. */
export function readFrame(buffer: ArrayBuffer): { proposal: Proposal; indices: Uint8Array } {
  const length = new DataView(buffer).getUint32(0, true);
  const head = new TextDecoder().decode(new Uint8Array(buffer, 4, length));
  return { proposal: JSON.parse(head) as Proposal, indices: new Uint8Array(buffer, 4 + length) };
}

export async function fetchPreview(palette: string, draft: Draft, signal: AbortSignal): Promise<Preview> {
  if (draft.kind === "step") {
    const proposal = await unwrap(
      client.POST("/api/palettes/{palette_id}/operations/preview", {
        params: { path: { palette_id: palette } },
        body: { operation: draft.operation },
        signal,
      }),
    );
    return { kind: "step", proposal: proposal as StepProposal };
  }
  const body = { picture: draft.picture, recipe: draft.recipe };
  const response = await post(`/api/palettes/${palette}/previews`, body, signal);
  return { kind: "reduce", ...readFrame(await response.arrayBuffer()) };
}

export async function fetchIndices(palette: string, map: string): Promise<Uint8Array> {
  return new Uint8Array(await (await get(`/api/palettes/${palette}/maps/${map}`)).arrayBuffer());
}

/** A file as it would be delivered, and its name. */
async function named(response: Response) {
  const name = /filename\*=UTF-8''([^;]+)/.exec(response.headers.get("Content-Disposition") ?? "")?.[1];
  return { blob: await response.blob(), name: name ? decodeURIComponent(name) : null };
}

/** A palette, or a picture painted with it, as a file. */
export async function fetchFile(palette: string, format: string, wish: FileRequest) {
  return named(await post(`/api/palettes/${palette}/files/${format}`, wish));
}

/** A ramp as a file. */
export async function fetchRampFile(palette: string, format: string, wish: Schemas["RampFileIn"]) {
  return named(await post(`/api/palettes/${palette}/ramps/files/${format}`, wish));
}

/** A ramp painted with the palette's swatches alone. */
export async function fetchDithered(palette: string, wish: Schemas["DitheredIn"]): Promise<Blob> {
  return (await post(`/api/palettes/${palette}/ramps/dithered`, wish)).blob();
}

/** A small piece of a picture as a recipe would paint it. */
export async function fetchPiece(palette: string, picture: string, recipe: Recipe, signal: AbortSignal) {
  const answer = await post(`/api/palettes/${palette}/pictures/${picture}/piece`, { recipe }, signal);
  if (answer.headers.get("Content-Type")?.startsWith("application/json"))
    throw new Error(((await answer.json()) as { problem: string }).problem);
  return answer.blob();
}

/** A gray picture of where the result differs: of a recipe, or as the palette stands. */
export async function fetchErrorMap(
  palette: string,
  picture: string,
  recipe: Recipe | null,
  kind: MapKind,
): Promise<Blob> {
  return (await post(`/api/palettes/${palette}/pictures/${picture}/errors`, { recipe, kind })).blob();
}
