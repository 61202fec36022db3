import { useQueryClient } from "@tanstack/react-query";
import { Suspense, useEffect } from "react";
import { Route, Switch, useRoute } from "wouter";
import { navigate } from "wouter/use-browser-location";
import { loadAhead, StagesContext } from "../bench/stages";
import { useWaitingFiles } from "../imports/store";
import { keepUp } from "../shell/elsewhere";
import { useJobsShown } from "../shell/jobs";
import { askBeforeLeaving } from "../shell/leaving";
import { Notices } from "../shell/notices";
import { Preparing } from "../shell/preparing";
import { Button } from "../ui/button";
import { later, whenIdle } from "../ui/later";
import { STAGES } from "./stages";

const Bench = later<{ id: string }>(async () => (await import("../bench/bench")).Bench);
const Shelf = later(async () => (await import("../shelf/shelf")).Shelf);
const ImportPage = later(async () => (await import("../imports/import-page")).ImportPage);

const BENCH = /^\/palettes\/(?<id>[0-9a-f-]{36})$/;

function Loading() {
  return (
    <main className="grid h-full place-items-center text-quiet">
      <p role="status">Opening …</p>
    </main>
  );
}

/** Have there what an address shows first. */
export function loadFor({ pathname, search }: Location): Promise<unknown> {
  if (!BENCH.test(pathname)) return Shelf.load();
  const asked = new URLSearchParams(search).get("stage");
  const stage = STAGES.find((entry) => entry.id === asked);
  return Promise.all([Bench.load(), stage?.component.load()]);
}

export function App() {
  useJobsShown();
  const queries = useQueryClient();
  const [, bench] = useRoute(BENCH);
  const palette = bench?.id ?? null;
  useEffect(() => keepUp(queries, palette), [queries, palette]);
  useEffect(() => askBeforeLeaving(queries), [queries]);
  const waiting = useWaitingFiles((state) => state.waiting);
  useEffect(() => {
    // While the shelf is looked at, the bench and its stages come along.
    whenIdle(() => {
      void Bench.load();
      loadAhead(STAGES);
    });
  }, []);
  return (
    <StagesContext value={STAGES}>
      <Suspense fallback={<Loading />}>
        <Switch>
          <Route path={BENCH}>{({ id = "" }) => <Bench key={id} id={id} />}</Route>
          <Route path="/">
            <Shelf />
          </Route>
          <Route>
            <main className="grid h-full place-items-center">
              <div className="max-w-sm">
                <h1 className="mb-2 text-xl font-semibold">There is nothing at this address</h1>
                <p className="mb-4 text-quiet">It may have been mistyped, or the link is from elsewhere.</p>
                <Button primary onClick={() => navigate("/")}>
                  Go to the shelf
                </Button>
              </div>
            </main>
          </Route>
        </Switch>
      </Suspense>
      <Suspense>{waiting && <ImportPage />}</Suspense>
      <Preparing />
      <Notices />
    </StagesContext>
  );
}
