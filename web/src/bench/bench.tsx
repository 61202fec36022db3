import { useQueryClient } from "@tanstack/react-query";
import { memo, Suspense, useDeferredValue, useEffect, useLayoutEffect, useState } from "react";
import { navigate } from "wouter/use-browser-location";
import { useMenusAsked, usePaletteOf } from "../api/palette";
import { KEYS } from "../api/queries";
import type { Palette } from "../api/types";
import { inWords } from "../api/words";
import { DropArea } from "../imports/drop";
import { useLens, useLensStore } from "../lens/lens";
import { useScreen } from "../shell/store";
import { Button } from "../ui/button";
import { Measured } from "../ui/measured";
import { useIsNarrow } from "../ui/window";
import { BenchMenu } from "./bench-menu";
import { BenchContext, createBench, usePalette, usePreview, useShown } from "./context";
import { DroppedPictures } from "./dropped-pictures";
import { useFocus, useReadoutOpen } from "./focus";
import { BenchHeader } from "./header";
import { useBenchKeys } from "./keys";
import { NotUnderstood } from "./not-understood";
import { Readout } from "./readout";
import { StageRow } from "./stage-row";
import { loadAhead, useStages } from "./stages";
import { Strip } from "./strip";
import { useClipboard } from "./use-clipboard";

function Waiting({ text }: { text: string }) {
  return (
    <main className="grid h-full place-items-center text-quiet">
      <p role="status">{text}</p>
    </main>
  );
}

/** The working page of one palette. */
export function Bench({ id }: { id: string }) {
  const query = usePaletteOf(id);
  const menus = useMenusAsked();
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
            <Button primary onClick={() => navigate("/")}>
              Go to the shelf
            </Button>
            <Button onClick={() => query.refetch()}>Try again</Button>
          </div>
        </div>
      </main>
    );
  }
  if (!query.data || !menus.data) return <Waiting text="Bringing the palette to the bench …" />;
  const { swatches, ramps, links } = query.data;
  const begins = links.length ? "reduce" : swatches.length ? "arrange" : ramps.length ? "ramp" : "gather";
  return <Loaded key={id} id={id} begins={begins} />;
}

/** Selected swatches are those that are there; where none is, the first one is. */
function Selecting() {
  const queries = useQueryClient();
  const palette = usePalette();
  const isPreviewed = usePreview() !== null;
  const shown = useShown();
  const selected = useScreen((screen) => screen.selected);
  const select = useScreen((screen) => screen.select);
  const selectUnasked = useScreen((screen) => screen.selectUnasked);
  useEffect(() => {
    // A step that has just been kept may have selected what it made before the strip shows it.
    const newest = queries.getQueryData<Palette>(KEYS.palette(palette.id)) ?? palette;
    const present = new Set<string>();
    for (const swatch of shown) present.add(swatch.id);
    if (!isPreviewed && newest.swatches !== shown)
      for (const swatch of newest.swatches) present.add(swatch.id);
    const kept = selected.filter((swatch) => present.has(swatch));
    const first = shown[0];
    if (kept.length !== selected.length || (kept.length === 0 && first)) {
      if (kept.length) select(kept);
      else selectUnasked(first ? [first.id] : []);
    }
  }, [shown, isPreviewed, selected, select, selectUnasked, queries, palette]);
  return null;
}

const Header = memo(BenchHeader);
const TheStrip = memo(Strip);
const Stages = memo(StageRow);
const Missed = memo(NotUnderstood);

/** Opens the readout over the stage where there is no room for it beside it; it shows the swatch that the readout is about. */
function ReadoutKey() {
  const { isOpen, set } = useReadoutOpen();
  const lens = useLens();
  const shown = useShown();
  const anchor = useScreen((screen) => screen.anchor ?? screen.selected.at(-1));
  const swatch = shown.find((entry) => entry.id === anchor);
  return (
    <button
      type="button"
      aria-expanded={isOpen}
      aria-controls="readout"
      title="The selected swatch: its color, name, tags and note"
      className="flex w-11 shrink-0 flex-col items-center gap-3 border-l border-line bg-panel pt-3 text-small font-semibold -outline-offset-2 hover:bg-raised"
      onClick={() => set(!isOpen)}
    >
      <span
        className="block h-14 w-6"
        style={swatch && swatch.alpha > 0 ? { background: lens.css(swatch.hex) } : undefined}
      />
      <span className="max-h-72 truncate [writing-mode:vertical-rl]">Readout</span>
      <span aria-hidden="true">{isOpen ? "▸" : "◂"}</span>
    </button>
  );
}

/** The stage that is chosen, and the readout beside it. */
function Working({ stage }: { stage: string }) {
  const stages = useStages();
  // The strip comes first; stage and readout follow piece by piece, so that a long palette opens without a stall.
  const isOpen = useDeferredValue(true, false);
  const narrow = useIsNarrow();
  const isReadoutOpen = useReadoutOpen((state) => state.isOpen);
  const chosen = stages.find((entry) => entry.id === stage) ?? stages[0];
  const Stage = chosen?.component;
  return (
    <div className="relative flex min-h-0 grow">
      <main
        id="stage"
        role="tabpanel"
        aria-labelledby={`tab-${stage}`}
        tabIndex={-1}
        className="flex min-w-0 grow flex-col px-5 pt-3 pb-4 outline-none"
      >
        {isOpen && Stage && (
          <Suspense>
            <Measured id={`stage-${stage}`}>
              <Stage />
            </Measured>
          </Suspense>
        )}
      </main>
      {isOpen && narrow && <ReadoutKey />}
      {isOpen && (!narrow || isReadoutOpen) && (
        <div
          id="readout"
          className={narrow ? "absolute inset-y-0 right-11 z-20 flex shadow-lg" : "flex shrink-0"}
        >
          <Measured id="readout">
            <Readout />
          </Measured>
        </div>
      )}
    </div>
  );
}

function Loaded({ id, begins }: { id: string; begins: string }) {
  const queries = useQueryClient();
  const [bench] = useState(() =>
    createBench(queries, id, new URLSearchParams(location.search).get("picture")),
  );
  const chosenStage = useScreen((screen) => screen.stage);
  const setStage = useScreen((screen) => screen.setStage);
  const stages = useStages();
  // A bench begins where its address says, else at Reduce when it has a picture, else where what it holds is worked on.
  const [first, setFirst] = useState<string | null>(() => {
    const asked = new URLSearchParams(location.search).get("stage");
    return stages.some((entry) => entry.id === asked) ? asked : begins;
  });
  const stage = first ?? chosenStage;
  // biome-ignore lint/correctness/useExhaustiveDependencies: once, when the bench opens
  useEffect(() => {
    if (first) setStage(first);
    setFirst(null);
    document.title = `${queries.getQueryData<Palette>(KEYS.palette(id))?.name ?? "Palette"} · Huvren`;
    return () => {
      useLensStore.getState().choose(null);
      // What went wrong here says nothing on the next bench.
      useScreen.getState().settleWrong();
    };
  }, []);
  useLayoutEffect(() => bench.watch(), [bench]);
  useEffect(() => () => bench.asking.stop(), [bench]);
  useBenchKeys(bench, stages);
  useClipboard(bench);
  useFocus(stage);
  useEffect(() => loadAhead(stages), [stages]);
  useEffect(() => {
    for (const entry of stages) entry.opened?.(queries, bench);
  }, [stages, queries, bench]);
  // The address says the stage, so that a reload comes back to it.
  useEffect(() => {
    const asked = new URLSearchParams(location.search);
    if (asked.get("stage") === stage) return;
    asked.set("stage", stage);
    navigate(`${location.pathname}?${asked}`, { replace: true });
  }, [stage]);
  return (
    <BenchContext.Provider value={bench}>
      <Selecting />
      <DropArea target={id}>
        {/* A window that is too low for the stage scrolls; the stage keeps its height. */}
        <div className="h-full overflow-x-hidden overflow-y-auto">
          <div className="flex h-full min-h-[660px] flex-col">
            <Measured id="header">
              <Header />
            </Measured>
            <Measured id="missed">
              <Missed />
            </Measured>
            <BenchMenu>
              <Measured id="strip">
                <TheStrip />
              </Measured>
              <Measured id="stages">
                <Stages />
              </Measured>
              <Working stage={stage} />
            </BenchMenu>
          </div>
        </div>
      </DropArea>
      <DroppedPictures />
    </BenchContext.Provider>
  );
}
