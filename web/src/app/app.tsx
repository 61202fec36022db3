import { useQueryClient } from "@tanstack/react-query";
import { lazy, Suspense, useEffect } from "react";
import { Route, Switch, useRoute } from "wouter";
import { navigate } from "wouter/use-browser-location";
import { StagesContext } from "../bench/stages";
import { useWaitingFiles } from "../imports/store";
import { keepUp } from "../shell/elsewhere";
import { useJobsShown } from "../shell/jobs";
import { Notices } from "../shell/notices";
import { Preparing } from "../shell/preparing";
import { Button } from "../ui/button";
import { STAGES } from "./stages";

const Bench = lazy(() => import("../bench/bench").then((loaded) => ({ default: loaded.Bench })));
const Shelf = lazy(() => import("../shelf/shelf").then((loaded) => ({ default: loaded.Shelf })));
const ImportPage = lazy(() =>
  import("../imports/import-page").then((loaded) => ({ default: loaded.ImportPage })),
);

const BENCH = /^\/palettes\/(?<id>[0-9a-f-]{36})$/;

function Loading() {
  return (
    <main className="grid h-full place-items-center text-quiet">
      <p role="status">Opening …</p>
    </main>
  );
}

export function App() {
  useJobsShown();
  const queries = useQueryClient();
  const [, bench] = useRoute(BENCH);
  const palette = bench?.id ?? null;
  useEffect(() => keepUp(queries, palette), [queries, palette]);
  const waiting = useWaitingFiles((state) => state.waiting);
  useEffect(() => {
    // While the shelf is looked at, the bench comes along; on a bench, its stages do.
    const later = window.requestIdleCallback ?? ((run: () => void) => setTimeout(run, 400));
    later(() => void import("../bench/bench"));
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
