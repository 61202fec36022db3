import type { QueryClient } from "@tanstack/react-query";
import { KEYS } from "../api/queries";
import type { Palette } from "../api/types";

/** A step that another tab of this browser has made. */
interface Made {
  palette: string;
  revision: number;
}

const CHANNEL = "huvren.steps";
const channel = typeof BroadcastChannel === "undefined" ? null : new BroadcastChannel(CHANNEL);

/** Tell the other tabs that a palette has come to another step. */
export function tellTabs(palette: string, revision: number) {
  channel?.postMessage({ palette, revision } satisfies Made);
}

/** Fetch what another tab has changed, as soon as it says so; the function that is answered ends that. */
export function hearTabs(queries: QueryClient): () => void {
  const hear = ({ data }: MessageEvent<Made>) => {
    const known = queries.getQueryData<Palette>(KEYS.palette(data.palette));
    if (known && known.revision !== data.revision) {
      void queries.invalidateQueries({ queryKey: KEYS.palette(data.palette) });
      void queries.invalidateQueries({ queryKey: KEYS.history(data.palette) });
    }
    void queries.invalidateQueries({ queryKey: KEYS.shelf });
  };
  channel?.addEventListener("message", hear);
  return () => channel?.removeEventListener("message", hear);
}
