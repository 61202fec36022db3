import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useRef, useState } from "react";
import { useScreen } from "../shell/store";
import { client, type Job, type Operation, type Palette, Problem, type Recipe, unwrap } from "./client";
import { ended, isJob } from "./jobs";

export type SaveState = "saved" | "saving" | "waiting";

export type Change =
  | { kind: "operation"; operation: Operation }
  | { kind: "undo" }
  | { kind: "redo" }
  | { kind: "go-to"; number: number }
  | { kind: "reduce"; picture: string; recipe: Recipe }
  | { kind: "unlink"; picture: string };

const RETRY_MS = 2_000;

export function paletteKey(id: string) {
  return ["palette", id] as const;
}

export function usePalette(id: string) {
  return useQuery({
    queryKey: paletteKey(id),
    // Comparing twenty thousand swatches with those of before would take longer than drawing them.
    structuralSharing: false,
    queryFn: () => unwrap(client.GET("/api/palettes/{palette_id}", { params: { path: { palette_id: id } } })),
  });
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

export function useMenus() {
  return useQuery({
    queryKey: ["menus"],
    queryFn: () => unwrap(client.GET("/api/menus")),
    staleTime: Infinity,
  });
}

function send(id: string, base: number, change: Change): Promise<Palette | Job> {
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

function isOffline(error: unknown) {
  return error instanceof TypeError || (error instanceof Problem && error.status >= 502);
}

/**
 * Changes of one palette, one after the other, each on the revision the one before gave. A step that the server
 * cannot be reached for waits and goes through later; one made on a state that is no longer the newest shows the
 * newer state and offers to be made again.
 */
export function useChanges(id: string) {
  const queries = useQueryClient();
  const say = useScreen((screen) => screen.say);
  const [saveState, setSaveState] = useState<SaveState>("saved");
  const line = useRef<Promise<unknown>>(Promise.resolve());
  const pending = useRef(0);

  const change = useCallback(
    (wanted: Change): Promise<Palette | null> => {
      const put = (palette: Palette) => {
        queries.setQueryData(paletteKey(id), palette);
        queries.invalidateQueries({ queryKey: ["history", id] });
        queries.invalidateQueries({ queryKey: ["shelf"] });
        return palette;
      };
      const attempt = async (): Promise<Palette | null> => {
        const known = queries.getQueryData<Palette>(paletteKey(id));
        if (!known) return null;
        for (;;) {
          try {
            const answer = await send(id, known.revision, wanted);
            if (!isJob(answer)) return put(answer);
            if ((await ended(queries, answer.id)) === null) return null;
            return put(
              await unwrap(
                client.GET("/api/palettes/{palette_id}", { params: { path: { palette_id: id } } }),
              ),
            );
          } catch (error) {
            if (isOffline(error)) {
              setSaveState("waiting");
              await new Promise((resolve) => setTimeout(resolve, RETRY_MS));
              continue;
            }
            if (error instanceof Problem && error.current) {
              put(error.current);
              say(error.message, {
                kind: "wrong",
                action: { label: "Make my step again", run: () => void change(wanted) },
              });
            } else {
              say(error instanceof Error ? error.message : String(error), { kind: "wrong" });
            }
            return null;
          }
        }
      };
      pending.current += 1;
      setSaveState("saving");
      const result = line.current.then(attempt).finally(() => {
        pending.current -= 1;
        if (pending.current === 0) setSaveState("saved");
      });
      line.current = result;
      return result;
    },
    [id, queries, say],
  );
  return { change, saveState };
}
