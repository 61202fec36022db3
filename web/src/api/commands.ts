/** Everything that changes something on the server, one function each; whoever calls them says what it makes stale. */

import { client, patientClient, unwrap } from "./client";
import { isJob } from "./jobs";
import { Problem } from "./request";
import type { Job, Operation, Palette, Recipe, Schemas } from "./types";

/** One step of a palette, as it is sent. */
export type Change =
  | { kind: "operation"; operation: Operation }
  | { kind: "undo" }
  | { kind: "redo" }
  | { kind: "go-to"; number: number }
  | { kind: "reduce"; picture: string; recipe: Recipe }
  | { kind: "unlink"; picture: string };

/**
 * Send one step, made on the revision `base`. When it is sent again is said where it waits; by `once`, an id of its own, the server
 * knows it then, and does it once.
 */
export function sendChange(id: string, base: number, change: Change, once: string): Promise<Palette | Job> {
  const params = { path: { palette_id: id } };
  switch (change.kind) {
    case "operation":
      return unwrap(
        patientClient.POST("/api/palettes/{palette_id}/operations", {
          params,
          body: { base, once, operation: change.operation },
        }),
      );
    case "undo":
      return unwrap(patientClient.POST("/api/palettes/{palette_id}/undo", { params, body: { base, once } }));
    case "redo":
      return unwrap(patientClient.POST("/api/palettes/{palette_id}/redo", { params, body: { base, once } }));
    case "go-to":
      return unwrap(
        patientClient.POST("/api/palettes/{palette_id}/go-to", {
          params,
          body: { base, once, number: change.number },
        }),
      );
    case "unlink":
      return unwrap(
        patientClient.POST("/api/palettes/{palette_id}/pictures/{picture_id}/unlink", {
          params: { path: { palette_id: id, picture_id: change.picture } },
          body: { base, once },
        }),
      );
    case "reduce":
      return unwrap(
        patientClient.POST("/api/palettes/{palette_id}/reductions", {
          params,
          body: { base, once, picture: change.picture, recipe: change.recipe },
        }),
      );
  }
}

/** One operation on a palette that is not on the bench. */
export function operateOnce(id: string, base: number, operation: Operation): Promise<Palette> {
  return unwrap(
    client.POST("/api/palettes/{palette_id}/operations", {
      params: { path: { palette_id: id } },
      body: { base, operation },
    }),
  );
}

/** A new palette that is not made from a picture. */
export async function createPalette(body: {
  name?: string;
  document?: Record<string, unknown>;
  source?: string;
}): Promise<Palette> {
  const answer = await unwrap(client.POST("/api/palettes", { body }));
  if (isJob(answer)) throw new Problem(500, "unexpected", "The server answered with work to wait for.");
  return answer;
}

/** A palette made from a picture by a recipe, the usual one where none is given; or the job that makes it. */
export function beginPalette(picture: string, recipe?: Recipe): Promise<Palette | Job> {
  return unwrap(client.POST("/api/palettes", { body: recipe ? { picture, recipe } : { picture } }));
}

export type CardKind = "palettes" | "pictures";

/** Into the trash, or out of it again. */
export async function setTrashed(kind: CardKind, id: string, trashed: boolean): Promise<void> {
  if (kind === "palettes") {
    const params = { path: { palette_id: id } };
    if (trashed) await unwrap(client.DELETE("/api/palettes/{palette_id}", { params }));
    else await unwrap(client.POST("/api/palettes/{palette_id}/restore", { params }));
  } else {
    const params = { path: { picture_id: id } };
    if (trashed) await unwrap(client.DELETE("/api/pictures/{picture_id}", { params }));
    else await unwrap(client.POST("/api/pictures/{picture_id}/restore", { params }));
  }
}

/** As many cards of a kind go into the trash in one request. */
const MOST_MOVED = 20_000;

/** Many cards into the trash together, or out of it. Tells which of them are there now. */
export async function setAllTrashed(cards: readonly (readonly [CardKind, string])[], trashed: boolean) {
  const moved: (readonly [CardKind, string])[] = [];
  for (let first = 0; first < cards.length; first += MOST_MOVED) {
    const ids = { palettes: [] as string[], pictures: [] as string[] };
    for (const [kind, id] of cards.slice(first, first + MOST_MOVED)) ids[kind].push(id);
    const there = await unwrap(client.PUT("/api/shelf/trashed", { body: { ...ids, trashed } }));
    for (const kind of ["pictures", "palettes"] as const)
      for (const id of there[kind]) moved.push([kind, id]);
  }
  return moved;
}

/** Remove for good what is in the trash. */
export function emptyTrash() {
  return unwrap(client.DELETE("/api/trash"));
}

export function setFavorite(kind: CardKind, id: string, favorite: boolean) {
  return unwrap(
    client.PUT("/api/library/{kind}/{object_id}/favorite", {
      params: { path: { kind, object_id: id } },
      body: { favorite },
    }),
  );
}

export function duplicatePalette(id: string) {
  return unwrap(
    client.POST("/api/library/palettes/{palette_id}/duplicate", { params: { path: { palette_id: id } } }),
  );
}

export type JobAction = "cancel" | "retry" | "clear";

/** Cancel a job, try it again, or forget it. */
export async function actOnJob(what: JobAction, id: string): Promise<void> {
  const params = { path: { job_id: id } };
  if (what === "cancel") await unwrap(client.POST("/api/jobs/{job_id}/cancel", { params }));
  else if (what === "retry") await unwrap(client.POST("/api/jobs/{job_id}/retry", { params }));
  else await unwrap(client.DELETE("/api/jobs/{job_id}", { params }));
}

/** Leave one picture of a batch out, or try it again. */
export function actOnMember(what: "call-off" | "retry", job: string, position: number) {
  const params = { path: { job_id: job, position } };
  return what === "retry"
    ? unwrap(client.POST("/api/jobs/{job_id}/pictures/{position}/retry", { params }))
    : unwrap(client.POST("/api/jobs/{job_id}/pictures/{position}/call-off", { params }));
}

export function startBatch(body: { pictures: string[]; recipe: Recipe; name: string }) {
  return unwrap(client.POST("/api/jobs/batches", { body }));
}

export function keepRecipe(name: string, recipe: Recipe) {
  return unwrap(client.POST("/api/recipes", { body: { name, recipe } }));
}

export function removeRecipe(id: string) {
  return unwrap(client.DELETE("/api/recipes/{recipe_id}", { params: { path: { recipe_id: id } } }));
}

export function keepLimits(name: string, limits: Schemas["LimitSetIn"]["limits"]) {
  return unwrap(client.POST("/api/limits", { body: { name, limits } }));
}

export function removeLimits(id: string) {
  return unwrap(client.DELETE("/api/limits/{set_id}", { params: { path: { set_id: id } } }));
}

export function keepProofs(picture: string, recipes: Recipe[]) {
  return unwrap(
    client.PUT("/api/pictures/{picture_id}/proofs", {
      params: { path: { picture_id: picture } },
      body: { recipes },
    }),
  );
}

/** Another password; one is signed out everywhere else. */
export function changePassword(present: string, wanted: string) {
  return unwrap(client.POST("/api/account/password", { body: { present, wanted } }));
}

/** Sign out in another place. */
export function endPlace(id: string) {
  return unwrap(client.DELETE("/api/account/places/{place_id}", { params: { path: { place_id: id } } }));
}

/** Sign out everywhere but here. */
export function endOtherPlaces() {
  return unwrap(client.DELETE("/api/account/places"));
}
