import { notifyManager, QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { createRoot } from "react-dom/client";
import "./index.css";
import { App, loadFor } from "./app/app";

// Libraries that add a style element ask for the page's nonce here.
const nonce = document.querySelector<HTMLMetaElement>('meta[name="csp-nonce"]')?.content;
(window as unknown as { __webpack_nonce__?: string }).__webpack_nonce__ = nonce;

// Whoever watches a step or an answer is told before the browser draws again: nothing is “saved” for a moment after a key.
notifyManager.setScheduler(queueMicrotask);
const client = new QueryClient({
  defaultOptions: { queries: { retry: 1, refetchOnWindowFocus: true, staleTime: 5_000 } },
});
const root = document.getElementById("root");
const PATIENCE_MS = 250;
if (root) {
  // What the page shows first is drawn at once where it comes quickly; else something is said meanwhile.
  const patience = new Promise((done) => setTimeout(done, PATIENCE_MS));
  void Promise.race([patience, loadFor(location).catch(() => undefined)]).then(() =>
    createRoot(root).render(
      <QueryClientProvider client={client}>
        <App />
      </QueryClientProvider>,
    ),
  );
}
