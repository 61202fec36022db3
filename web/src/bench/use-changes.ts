import { type QueryClient, useMutation, useQueryClient } from "@tanstack/react-query";
import { useCallback, useState } from "react";
import { client, isAway, type Palette, Problem, unwrap } from "../api/client";
import { isJob } from "../api/jobs";
import { type Change, sendChange } from "../api/palette";
import { KEYS } from "../api/queries";
import { inWords } from "../api/words";
import { ended } from "../shell/jobs";
import { useScreen } from "../shell/store";

export type SaveState = "saved" | "saving" | "waiting";

export const RETRY_MS = 2_000;

/** How a step is sent again: for as long as the server is away, and never for anything else. */
export const WAITING = {
  retry: (_count: number, error: unknown) => isAway(error),
  retryDelay: RETRY_MS,
  // A browser that knows it is offline pauses the step by itself, and resumes it.
  networkMode: "online",
} as const;

function put(queries: QueryClient, palette: Palette) {
  // An answer that is still under way was asked for before this step, and would put the state before it back.
  void queries.cancelQueries({ queryKey: KEYS.palette(palette.id) });
  queries.setQueryData(KEYS.palette(palette.id), palette);
  queries.invalidateQueries({ queryKey: KEYS.history(palette.id) });
  queries.invalidateQueries({ queryKey: KEYS.shelf });
  return palette;
}

/** Send a step on the newest revision that is known here; null where the job that makes it was called off. */
async function step(queries: QueryClient, id: string, wanted: Change): Promise<Palette | null> {
  const known = queries.getQueryData<Palette>(KEYS.palette(id));
  if (!known) return null;
  const answer = await sendChange(id, known.revision, wanted);
  if (!isJob(answer)) return put(queries, answer);
  if ((await ended(queries, answer.id)) === null) return null;
  const params = { path: { palette_id: id } };
  return put(queries, await unwrap(client.GET("/api/palettes/{palette_id}", { params })));
}

/**
 * Changes of one palette, one after the other, each on the revision the one before gave. A step that the server
 * cannot be reached for waits and goes through later; one made on a state that is no longer the newest shows the
 * newer state and offers to be made again.
 */
export function useChanges(id: string) {
  const queries = useQueryClient();
  const say = useScreen((screen) => screen.say);
  const [open, setOpen] = useState(0);
  const mutation = useMutation({
    mutationKey: ["change", id],
    // Steps of one scope run one after the other.
    scope: { id: `palette-${id}` },
    mutationFn: (wanted: Change) => step(queries, id, wanted),
    ...WAITING,
  });
  const { mutateAsync } = mutation;

  const change = useCallback(
    async (wanted: Change): Promise<Palette | null> => {
      setOpen((count) => count + 1);
      try {
        const after = await mutateAsync(wanted);
        if (after?.notes.length) say(after.notes.join(" "));
        return after;
      } catch (error) {
        if (error instanceof Problem && error.current) {
          put(queries, error.current);
          const again = { label: "Make my step again", run: () => void change(wanted) };
          say(error.message, { kind: "wrong", action: again });
        } else {
          say(inWords(error), { kind: "wrong" });
        }
        return null;
      } finally {
        setOpen((count) => count - 1);
      }
    },
    [mutateAsync, queries, say],
  );
  const waiting = mutation.isPaused || mutation.failureReason !== null;
  const saveState: SaveState = open === 0 ? "saved" : waiting && mutation.isPending ? "waiting" : "saving";
  return { change, saveState };
}
