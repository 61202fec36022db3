import { useQueryClient } from "@tanstack/react-query";
import { lazy, Suspense, useCallback, useDeferredValue, useEffect, useMemo, useState } from "react";
import type { Operation, Palette } from "../api/client";
import { useMenus, usePalette } from "../api/palette";
import { KEYS } from "../api/queries";
import { inWords } from "../api/words";
import { DropArea } from "../imports/drop";
import { useLensStore } from "../lens/lens";
import { go } from "../shell/path";
import { useScreen } from "../shell/store";
import { Button } from "../ui/button";
import { BenchContext, type BenchState } from "./context";
import { BenchHeader } from "./header";
import { useBenchKeys } from "./keys";
import { NotUnderstood } from "./not-understood";
import { StageRow } from "./stage-row";
import { componentOf, loadAhead, useStages } from "./stages";
import { Strip } from "./strip";
import { useChanges } from "./use-changes";
import { usePreview } from "./use-preview";

const Readout = lazy(() => import("./readout").then((loaded) => ({ default: loaded.Readout })));

function Waiting({ text }: { text: string }) {
  return (
    <main className="grid h-full place-items-center text-quiet">
      <p role="status">{text}</p>
    </main>
  );
}

/** The working page of one palette. */
export function Bench({ id }: { id: string }) {
  const query = usePalette(id);
  const menus = useMenus();
  if (query.error || menus.error) {
    const error = query.error ?? menus.error;
    return (
      <main className="grid h-full place-items-center">
        <div className="max-w-md">
          <h1 className="mb-2 text-xl font-semibold">This palette cannot be shown</h1>
          <p role="alert" className="mb-4 text-quiet">
            {inWords(error)}
          </p>
          <div className="flex gap-2">
            <Button primary onClick={() => go("/")}>
              Go to the shelf
            </Button>
            <Button onClick={() => query.refetch()}>Try again</Button>
          </div>
        </div>
      </main>
    );
  }
  if (!query.data || !menus.data) return <Waiting text="Bringing the palette to the bench …" />;
  return <Loaded key={id} palette={query.data} menus={menus.data} />;
}

function Loaded({ palette, menus }: Pick<BenchState, "palette" | "menus">) {
  const { change, saveState } = useChanges(palette.id);
  const queries = useQueryClient();
  const [looked, showPicture] = useState(() => new URLSearchParams(location.search).get("picture"));
  const link = palette.links.find((entry) => entry.picture.id === looked) ?? palette.links[0];
  const { preview, draft, setDraft, discard, problem, busy } = usePreview(
    palette.id,
    palette.revision,
    menus,
  );
  const recipe = draft?.kind === "reduce" ? draft.recipe : null;
  const [keeping, setKeeping] = useState(false);
  const chosenStage = useScreen((screen) => screen.stage);
  const setStage = useScreen((screen) => screen.setStage);
  const selected = useScreen((screen) => screen.selected);
  const select = useScreen((screen) => screen.select);
  const shown = preview?.proposal.swatches ?? palette.swatches;

  const stages = useStages();
  // A bench begins where its address says, else at Reduce when it has a picture, else where what it holds is worked on.
  const [first, setFirst] = useState<string | null>(() => {
    const asked = new URLSearchParams(location.search).get("stage");
    if (stages.some((entry) => entry.id === asked)) return asked;
    if (link) return "reduce";
    return palette.swatches.length ? "arrange" : palette.ramps.length ? "ramp" : "gather";
  });
  const stage = first ?? chosenStage;
  // biome-ignore lint/correctness/useExhaustiveDependencies: once, when the bench opens
  useEffect(() => {
    if (first) setStage(first);
    setFirst(null);
    document.title = `${palette.name} · Huvren`;
    return () => useLensStore.getState().choose(null);
  }, []);

  useEffect(() => {
    // A step that has just been kept may have selected what it made before the strip shows it.
    const newest = queries.getQueryData<Palette>(KEYS.palette(palette.id)) ?? palette;
    const present = new Set<string>();
    for (const swatch of shown) present.add(swatch.id);
    if (!preview && newest.swatches !== shown) for (const swatch of newest.swatches) present.add(swatch.id);
    const kept = selected.filter((swatch) => present.has(swatch));
    const first = shown[0];
    if (kept.length !== selected.length || (kept.length === 0 && first)) {
      select(kept.length ? kept : first ? [first.id] : []);
    }
  }, [shown, preview, selected, select, queries, palette]);

  const keep = useCallback(async () => {
    if (!draft) return palette;
    if (draft.kind === "step") return change({ kind: "operation", operation: draft.operation });
    setKeeping(true);
    try {
      return await change(draft);
    } finally {
      setKeeping(false);
    }
  }, [draft, palette, change]);

  // A reduction that is tried out was asked for, so it is kept before anything else is done. What a view proposes by
  // itself is not: the view proposes it anew for the palette as it then is.
  const settle = useCallback(async () => {
    if (draft?.kind === "reduce") return (await keep()) !== null;
    discard();
    return true;
  }, [draft, keep, discard]);

  const look = useCallback(
    (picture: string) => {
      if (draft?.kind === "reduce") discard();
      showPicture(picture);
    },
    [draft, discard],
  );

  const operate = useCallback(
    async (operation: Operation) => {
      if (!(await settle())) return null;
      return change({ kind: "operation", operation });
    },
    [settle, change],
  );

  const bench = useMemo<BenchState>(
    () => ({
      palette,
      menus,
      shown,
      link,
      showPicture: look,
      groups: preview?.proposal.groups ?? palette.groups,
      preview,
      draft,
      recipe,
      setDraft,
      discard,
      keep,
      settle,
      problem,
      busy,
      keeping,
      change,
      operate,
    }),
    [
      palette,
      menus,
      shown,
      link,
      look,
      preview,
      draft,
      recipe,
      setDraft,
      discard,
      keep,
      settle,
      problem,
      busy,
      keeping,
      change,
      operate,
    ],
  );
  useBenchKeys(bench, stages);
  // The strip comes first; stage and readout follow piece by piece, so that a long palette opens without a stall.
  const isOpen = useDeferredValue(true, false);
  const chosen = stages.find((entry) => entry.id === stage) ?? stages[0];
  const Stage = chosen && componentOf(chosen);
  useEffect(() => loadAhead(stages), [stages]);
  return (
    <BenchContext.Provider value={bench}>
      <DropArea target={palette.id}>
        <div className="flex h-full min-w-[1000px] flex-col">
          <BenchHeader saveState={saveState} />
          <NotUnderstood />
          <Strip />
          <StageRow />
          <div className="flex min-h-0 grow">
            <main
              id="stage"
              role="tabpanel"
              aria-labelledby={`tab-${stage}`}
              className="flex min-w-0 grow flex-col px-5 pt-3 pb-4"
            >
              {isOpen && Stage && (
                <Suspense>
                  <Stage />
                </Suspense>
              )}
            </main>
            {isOpen && (
              <Suspense fallback={<aside className="w-[318px] shrink-0" />}>
                <Readout />
              </Suspense>
            )}
          </div>
        </div>
      </DropArea>
    </BenchContext.Provider>
  );
}
