import type { QueryClient } from "@tanstack/react-query";

function ask(event: BeforeUnloadEvent) {
  event.preventDefault();
}

/** While a step is on its way or waits for the server, whoever leaves the page is asked first. Returns what ends it. */
export function askBeforeLeaving(queries: QueryClient): () => void {
  // Heard only meanwhile: a page that always listens is not kept for going back to it.
  const heed = () => (queries.isMutating() ? addEventListener : removeEventListener)("beforeunload", ask);
  heed();
  const end = queries.getMutationCache().subscribe(heed);
  return () => {
    end();
    removeEventListener("beforeunload", ask);
  };
}
