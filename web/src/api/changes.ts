/** What the server tells of by itself: steps that somebody else, or another window, has made. */

/** A palette has come to a step, something on the shelf is otherwise, nobody knows what has happened, or all is heard from now on. */
export type Told =
  | { what: "step"; palette: string; revision: number }
  | { what: "shelf" | "anything" | "begun" };

const AGAIN_MS = 30_000;

/**
 * Hear what changes, for as long as the window can be seen; beginning with where `palette` stands. The function that is answered ends
 * that. Where the server tells nothing, or has no room, it is asked again now and then.
 */
export function hearServer(palette: string | null, hear: (told: Told) => void): () => void {
  let source: EventSource | null = null;
  let later: ReturnType<typeof setTimeout> | undefined;
  const close = () => {
    clearTimeout(later);
    source?.close();
    source = null;
  };
  const open = () => {
    close();
    source = new EventSource(`/api/changes${palette ? `?palette=${palette}` : ""}`);
    source.onmessage = ({ data }) => hear(JSON.parse(data) as Told);
    source.onerror = () => {
      // A stream that only ended is opened anew by the browser itself; one that was refused is not.
      if (source?.readyState === EventSource.CLOSED) later = setTimeout(look, AGAIN_MS);
    };
  };
  const look = () => (document.visibilityState === "visible" ? open() : close());
  document.addEventListener("visibilitychange", look);
  look();
  return () => {
    document.removeEventListener("visibilitychange", look);
    close();
  };
}
