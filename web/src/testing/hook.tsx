import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { act, type ReactNode } from "react";
import { createRoot, type Root } from "react-dom/client";
import { afterEach, vi } from "vitest";

(globalThis as { IS_REACT_ACT_ENVIRONMENT?: boolean }).IS_REACT_ACT_ENVIRONMENT = true;

export const json = (body: unknown, status = 200) =>
  new Response(JSON.stringify(body), { status, headers: { "Content-Type": "application/json" } });

export interface Sent {
  method: string;
  path: string;
  body: unknown;
}

/** A server that answers by what `answers` says, in order, and remembers what it was asked. */
export function serverOf(...answers: (Response | Error)[]): Sent[] {
  const sent: Sent[] = [];
  vi.stubGlobal("fetch", async (request: Request) => {
    const text = await request.clone().text();
    const isJson = request.headers.get("Content-Type")?.startsWith("application/json");
    const url = new URL(request.url);
    sent.push({ method: request.method, path: url.pathname, body: isJson ? JSON.parse(text) : text });
    const answer = answers.shift();
    if (!answer) throw new Error("The test has no further answer.");
    if (answer instanceof Error) throw answer;
    return answer;
  });
  return sent;
}

const roots: Root[] = [];
afterEach(() => {
  act(() => {
    for (const root of roots.splice(0)) root.unmount();
  });
});

function View({ draw }: { draw: () => void }) {
  draw();
  return null;
}

/** A hook as a view uses it: what it gives now, drawing it anew with something else, and its end. */
export function used<Given, Result>(
  hook: (given: Given) => Result,
  given: Given,
  { queries = new QueryClient(), around = (inner: ReactNode) => inner } = {},
) {
  let latest: Result | undefined;
  let drawn = 0;
  const root = createRoot(document.createElement("div"));
  roots.push(root);
  const draw = (now: Given) => {
    const view = () => {
      drawn += 1;
      latest = hook(now);
    };
    act(() =>
      root.render(<QueryClientProvider client={queries}>{around(<View draw={view} />)}</QueryClientProvider>),
    );
  };
  draw(given);
  return {
    now: () => latest as Result,
    draw,
    drawn: () => drawn,
    queries,
    end: () => act(() => root.unmount()),
  };
}

/** Let everything that was begun come to its end. */
export const rest = () => act(() => new Promise((resolve) => setTimeout(resolve)));
