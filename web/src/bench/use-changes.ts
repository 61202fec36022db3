import { MutationObserver, type QueryClient, useMutationState } from "@tanstack/react-query";
import { type Change, sendChange } from "../api/commands";
import { isJob } from "../api/jobs";
import { ask, KEYS } from "../api/queries";
import { isAway, Problem } from "../api/request";
import type { Palette } from "../api/types";
import { inWords } from "../api/words";
import { tellTabs } from "../shell/elsewhere";
import { ended } from "../shell/jobs";
import { useScreen } from "../shell/store";
import { newId } from "../ui/ids";

export type SaveState = "saved" | "saving" | "waiting";

export const RETRY_MS = 2_000;

/** How a step is sent again: for as long as the server is away, and never for anything else. */
export const WAITING = {
  retry: (_count: number, error: unknown) => isAway(error),
  retryDelay: (_count: number, error: unknown) => (error instanceof Problem && error.waitMs) || RETRY_MS,
  // A browser that knows it is offline pauses the step by itself, and resumes it.
  networkMode: "online",
} as const;

function put(queries: QueryClient, palette: Palette) {
  // An answer that is still under way was asked for before this step, and would put the state before it back.
  void queries.cancelQueries({ queryKey: KEYS.palette(palette.id) });
  queries.setQueryData(KEYS.palette(palette.id), palette);
  tellTabs(palette.id, palette.revision);
  queries.invalidateQueries({ queryKey: KEYS.history(palette.id) });
  queries.invalidateQueries({ queryKey: KEYS.shelf });
  return palette;
}

/** Send a step on the newest revision that is known here; null where the job that makes it was called off. */
async function step(queries: QueryClient, id: string, wanted: Change, once: string): Promise<Palette | null> {
  const known = queries.getQueryData<Palette>(KEYS.palette(id));
  if (!known) return null;
  const answer = await sendChange(id, known.revision, wanted, once);
  if (!isJob(answer)) return put(queries, answer);
  if ((await ended(queries, answer.id)) === null) return null;
  return put(queries, await queries.fetchQuery({ ...ask.palette(id), staleTime: 0 }));
}

/**
 * Changes of one palette, one after the other, each on the revision the one before gave. A step that the server
 * cannot be reached for waits and goes through later; one made on a state that is no longer the newest shows the
 * newer state and offers to be made again. `once` is the id by which the server knows a step that is sent again: where its
 * answer was lost it is in already.
 */
export function makeChange(queries: QueryClient, id: string) {
  const { say } = useScreen.getState();
  const change = async (wanted: Change, once = newId()): Promise<Palette | null> => {
    const mutation = new MutationObserver(queries, {
      mutationKey: KEYS.changes(id),
      // Steps of one scope run one after the other.
      scope: { id: `palette-${id}` },
      mutationFn: (asked: Change) => step(queries, id, asked, once),
      ...WAITING,
    });
    try {
      const after = await mutation.mutate(wanted);
      useScreen.getState().settleWrong(id);
      if (after?.notes.length) say(after.notes.join(" "));
      return after;
    } catch (error) {
      if (error instanceof Problem && error.current) {
        put(queries, error.current);
        const again = { label: "Make my step again", run: () => void change(wanted) };
        say(error.message, { kind: "wrong", action: again });
      } else {
        say(inWords(error), { kind: "wrong", about: id });
      }
      return null;
    }
  };
  return change;
}

/** Whether steps of a palette are on their way, or wait for the server. */
export function useSaveState(id: string): SaveState {
  const states = useMutationState({
    filters: { mutationKey: KEYS.changes(id), status: "pending" },
    select: ({ state }) => (state.isPaused || state.failureReason !== null ? "waiting" : "saving"),
  });
  // Of several steps the first is on its way, and the others wait for it as they should.
  return (states[0] as SaveState | undefined) ?? "saved";
}
