/** Steps that are made elsewhere: in another tab of this browser, or by somebody at another one. */

import type { QueryClient } from "@tanstack/react-query";
import { hearServer, type Told } from "../api/changes";
import { KEYS } from "../api/keys";
import type { Palette } from "../api/types";

/** A step that another tab of this browser has made. */
interface Made {
  palette: string;
  revision: number;
}

const CHANNEL = "huvren.steps";
/** Steps that follow each other closely are fetched once. */
const SETTLE_MS = 100;
const FRESH_MS = 2_000;
const channel = typeof BroadcastChannel === "undefined" ? null : new BroadcastChannel(CHANNEL);

/** Tell the other tabs that a palette has come to another step. */
export function tellTabs(palette: string, revision: number) {
  channel?.postMessage({ palette, revision } satisfies Made);
}

/** Fetch a palette that stands at another step than the one known here, once no step of one's own is on its way. */
function catchUp(queries: QueryClient, { palette, revision }: { palette: string; revision: number | null }) {
  const known = queries.getQueryData<Palette>(KEYS.palette(palette));
  if (!known || known.revision === revision) return;
  if (queries.isMutating({ mutationKey: KEYS.changes(palette) }) > 0) {
    // The answer to one's own step brings its state, or says that it was made on an older one.
    const stop = queries.getMutationCache().subscribe(() => {
      if (queries.isMutating({ mutationKey: KEYS.changes(palette) }) > 0) return;
      stop();
      catchUp(queries, { palette, revision });
    });
    return;
  }
  void queries.invalidateQueries({ queryKey: KEYS.palette(palette) });
  void queries.invalidateQueries({ queryKey: KEYS.history(palette) });
}

/** Keep up with what is made elsewhere while `palette`, or the shelf, is looked at; the function that is answered ends that. */
export function keepUp(queries: QueryClient, palette: string | null): () => void {
  const newest = new Map<string, number | null>();
  const begun = performance.now();
  let isShelfOld = false;
  let settling: ReturnType<typeof setTimeout> | undefined;
  const settle = () => {
    clearTimeout(settling);
    settling = undefined;
    for (const [id, revision] of newest) catchUp(queries, { palette: id, revision });
    newest.clear();
    if (isShelfOld) void queries.invalidateQueries({ queryKey: KEYS.shelf });
    isShelfOld = false;
  };
  const hear = (told: Told) => {
    if (told.what === "step") newest.set(told.palette, told.revision);
    else if (told.what === "anything" && palette) newest.set(palette, null);
    // A stream that begins with the page, and not after an interruption, has nothing to tell that was not just fetched.
    isShelfOld ||= told.what !== "begun" || performance.now() - begun > FRESH_MS;
    settling ??= setTimeout(settle, SETTLE_MS);
  };
  const hearTab = ({ data }: MessageEvent<Made>) => hear({ what: "step", ...data });
  channel?.addEventListener("message", hearTab);
  const stop = hearServer(palette, hear);
  return () => {
    channel?.removeEventListener("message", hearTab);
    stop();
    settle();
  };
}
