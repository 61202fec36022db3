/** What the server tells of by itself: steps that somebody else, or another window, has made. */

/** A palette has come to a step, something on the shelf is otherwise, nobody knows what has happened, or all is heard from now on. */
export type Told =
  | { what: "step"; palette: string; revision: number }
  | { what: "shelf" | "anything" | "begun" };

const AGAIN_MS = 30_000;
const LOCK = "huvren.changes";

/**
 * Hear what changes, for as long as the window can be seen and no other window of this browser hears it already; beginning with where
 * `palette` stands. The function that is answered ends that.
 *
 * A browser keeps only six connections to a server that speaks HTTP/1.1: were each window to hold one, six of them would leave none.
 * `begun` is called whenever this window begins to hear, also after an interruption: what came before it is not known to the others.
 * Where the server tells nothing, or has no room, it is asked again now and then.
 */
export function hearServer(
  palette: string | null,
  hear: (told: Told) => void,
  begun: () => void = () => undefined,
): () => void {
  let source: EventSource | null = null;
  let later: ReturnType<typeof setTimeout> | undefined;
  let giveUp: (() => void) | null = null;
  const close = () => {
    clearTimeout(later);
    source?.close();
    source = null;
  };
  const open = () => {
    close();
    source = new EventSource(`/api/changes${palette ? `?palette=${palette}` : ""}`);
    source.onopen = begun;
    source.onmessage = ({ data }) => hear(JSON.parse(data) as Told);
    source.onerror = () => {
      // A stream that only ended is opened anew by the browser itself; one that was refused is not.
      if (source?.readyState === EventSource.CLOSED) later = setTimeout(open, AGAIN_MS);
    };
  };
  /** Hear as soon as no other window does. A page that is no secure context has no locks, and hears for itself. */
  const begin = () => {
    if (giveUp) return;
    const waiting = new AbortController();
    let release = () => {};
    giveUp = () => {
      waiting.abort();
      release();
      close();
      giveUp = null;
    };
    if (!navigator.locks) {
      open();
      return;
    }
    navigator.locks
      .request(LOCK, { signal: waiting.signal }, () => {
        open();
        return new Promise<void>((done) => {
          release = done;
        });
      })
      .catch(() => undefined);
  };
  const look = () => (document.visibilityState === "visible" ? begin() : giveUp?.());
  document.addEventListener("visibilitychange", look);
  look();
  return () => {
    document.removeEventListener("visibilitychange", look);
    giveUp?.();
  };
}
