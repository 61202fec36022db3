import { useQuery } from "@tanstack/react-query";
import { client, type Job, type Operation, type Palette, Problem, type Recipe, unwrap } from "./client";
import { isJob } from "./jobs";
import { ask } from "./queries";

/** One step of a palette, as it is sent. */
export type Change =
  | { kind: "operation"; operation: Operation }
  | { kind: "undo" }
  | { kind: "redo" }
  | { kind: "go-to"; number: number }
  | { kind: "reduce"; picture: string; recipe: Recipe }
  | { kind: "unlink"; picture: string };

export function usePalette(id: string) {
  return useQuery(ask.palette(id));
}

export function useMenus() {
  return useQuery(ask.menus());
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

/** Send one step, made on the revision `base`. */
export function sendChange(id: string, base: number, change: Change): Promise<Palette | Job> {
  const params = { path: { palette_id: id } };
  switch (change.kind) {
    case "operation":
      return unwrap(
        client.POST("/api/palettes/{palette_id}/operations", {
          params,
          body: { base, operation: change.operation },
        }),
      );
    case "undo":
      return unwrap(client.POST("/api/palettes/{palette_id}/undo", { params, body: { base } }));
    case "redo":
      return unwrap(client.POST("/api/palettes/{palette_id}/redo", { params, body: { base } }));
    case "go-to":
      return unwrap(
        client.POST("/api/palettes/{palette_id}/go-to", { params, body: { base, number: change.number } }),
      );
    case "unlink":
      return unwrap(
        client.POST("/api/palettes/{palette_id}/pictures/{picture_id}/unlink", {
          params: { path: { palette_id: id, picture_id: change.picture } },
          body: { base },
        }),
      );
    case "reduce":
      return unwrap(
        client.POST("/api/palettes/{palette_id}/reductions", {
          params,
          body: { base, picture: change.picture, recipe: change.recipe },
        }),
      );
  }
}
