import { useSyncExternalStore } from "react";

const listeners = new Set<() => void>();
window.addEventListener("popstate", () => {
  for (const listener of listeners) listener();
});

function subscribe(listener: () => void) {
  listeners.add(listener);
  return () => listeners.delete(listener);
}

/** Go to an address of ours without loading the page anew. */
export function go(path: string) {
  history.pushState(null, "", path);
  for (const listener of listeners) listener();
}

/** The present address. */
export function usePath() {
  const path = useSyncExternalStore(subscribe, () => location.pathname);
  return { path, go };
}
