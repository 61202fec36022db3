import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import type { Job, Recipe } from "../../api/client";
import { isOpen, useJobs } from "../../api/jobs";
import { ask } from "../../api/queries";
import { type BenchState, useBench } from "../../bench/context";
import { Figure } from "../../bench/draft-bar";
import { PictureChoice, ShelfPictures } from "../../bench/picture-choice";
import { DropHint } from "../../imports/drop";
import { type CompareMode, PictureArea } from "../../picture/picture-area";
import { PixelReadout } from "../../picture/pixel-readout";
import { useErrorMap, useOriginal, usePainted, useTileMap } from "../../picture/use-painted";
import { useJobActions } from "../../shell/jobs";
import { Button, TextButton } from "../../ui/button";
import { Curve } from "./curve";
import { KeptRecipes } from "./kept-recipes";
import { ProofSheet } from "./proof-sheet";
import { RecipeSentence } from "./recipe-sentence";
import { kilobytes } from "./size";
import { WeighBar, WeighLayer, type WeighState } from "./weigh";

const SETTLE_MS = 350;

/** The size of the file, measured by writing it; asked for once the controls rest. */
function useFileSize(bench: BenchState) {
  const { palette, link, recipe, preview, busy } = bench;
  const picture = link?.picture.id ?? "";
  const [settled, setSettled] = useState<Recipe | null>(null);
  useEffect(() => {
    const timer = setTimeout(() => setSettled(recipe), recipe ? SETTLE_MS : 0);
    return () => clearTimeout(timer);
  }, [recipe]);
  const kept = useQuery({
    ...ask.figures(palette, picture),
    enabled: !recipe && picture !== "",
    placeholderData: (before) => before,
  });
  const proposed = useQuery({
    ...ask.proposedSize(palette, picture, settled),
    enabled: settled !== null && settled === recipe && preview !== null && !busy,
  });
  return {
    bytes: recipe ? (settled === recipe ? (proposed.data?.bytes ?? null) : null) : (kept.data?.bytes ?? null),
    figures: kept.data ?? null,
  };
}

/** How far the reduction of a large picture has come. */
function JobProgress({ job }: { job: Job }) {
  const act = useJobActions();
  return (
    <span className="flex items-center gap-3">
      <span role="status" className="text-right whitespace-nowrap text-ink">
        {job.step || "waiting for its turn"}
      </span>
      <span
        role="progressbar"
        aria-label="Reducing at full size"
        aria-valuenow={Math.round(job.share * 100)}
        aria-valuemin={0}
        aria-valuemax={100}
        className="block h-1.5 w-24 overflow-hidden rounded-full bg-line"
      >
        <span className="block h-full bg-ink" style={{ width: `${job.share * 100}%` }} />
      </span>
      <Button onClick={() => void act("cancel", job.id)}>Cancel</Button>
    </span>
  );
}

function Figures() {
  const bench = useBench();
  const { palette, link, preview, recipe, keep, discard, keeping, busy, shown, operate } = bench;
  const { bytes, figures: now } = useFileSize(bench);
  const job = useJobs().find((entry) => entry.palette === palette.id && isOpen(entry));
  if (!link) return null;
  const proposed = preview?.kind === "reduce" ? preview.proposal : null;
  const figures = proposed?.figures ?? now ?? link.figures;
  const unused = shown.filter((swatch) => swatch.coverage === 0 && !swatch.locked);
  const scaled = proposed && !proposed.is_full;
  return (
    <div className="mb-2 flex min-h-8 items-center gap-x-5 text-small text-quiet">
      <span className="whitespace-nowrap" title="Distinct opaque colors in the original">
        <strong className="font-semibold text-ink">{link.picture.distinct.toLocaleString("en")}</strong>{" "}
        colors in the picture
      </span>
      <Figure
        name="used"
        value={`${figures.used} of ${shown.length}`}
        title="Swatches that paint at least one pixel"
      />
      {unused.length > 0 && !recipe && (
        <TextButton
          className="-mx-1.5"
          title="Swatches that paint no pixel and are not locked"
          onClick={() => void operate({ kind: "delete_swatches", ids: unused.map((swatch) => swatch.id) })}
        >
          Drop {unused.length} unused
        </TextButton>
      )}
      <Figure
        name="mean ΔE"
        value={figures.mean.toFixed(1)}
        title="Mean color difference between original and result, in OKLab × 100"
      />
      <Figure
        name="95 % under"
        value={figures.p95.toFixed(1)}
        title="95 of 100 pixels differ less than this"
      />
      <Figure
        name="file"
        value={bytes === null ? "…" : kilobytes(bytes)}
        title={scaled ? "Measured when the preview is kept" : "Size of the indexed PNG that Deliver writes"}
      />
      <span className="grow" />
      {job ? (
        <JobProgress job={job} />
      ) : keeping ? (
        <span role="status" className="font-semibold text-ink">
          Reducing at full size …
        </span>
      ) : recipe ? (
        <span className="flex items-center gap-2">
          {scaled && <span>previewed smaller</span>}
          <Button onClick={discard} title="Put the palette back as it is kept (Escape)">
            Put back
          </Button>
          <Button
            primary
            disabled={busy && !preview}
            onClick={() => void keep()}
            title="Make this the palette (K)"
          >
            Keep
          </Button>
        </span>
      ) : null}
    </div>
  );
}

type Panel = "curve" | "weigh" | "proofs" | null;
type Look = "result" | "errors" | "tiles" | "gray";

/** Words at the right of the picture's line: other ways to look at it. */
function Looks({
  recipes,
  panel,
  look,
  mode,
  tiled,
  onPanel,
  onLook,
  onMode,
}: {
  recipes: React.ReactNode;
  panel: Panel;
  look: Look;
  tiled: boolean;
  mode: CompareMode;
  onPanel: (panel: Panel) => void;
  onLook: (look: Look) => void;
  onMode: (mode: CompareMode) => void;
}) {
  const word = (label: string, pressed: boolean, title: string, onClick: () => void) => (
    <button
      key={label}
      type="button"
      aria-pressed={pressed}
      title={title}
      className={`min-h-7 border-b-2 text-small ${pressed ? "border-ink font-semibold" : "border-transparent text-quiet hover:text-ink"}`}
      onClick={onClick}
    >
      {label}
    </button>
  );
  return (
    <div className="mb-1.5 flex items-center gap-5">
      {word("How many colors?", panel === "curve", "What each further color buys", () =>
        onPanel(panel === "curve" ? null : "curve"),
      )}
      {word("Weigh parts", panel === "weigh", "Let parts of the picture count more, or not at all", () =>
        onPanel(panel === "weigh" ? null : "weigh"),
      )}
      {word("Proof sheet", panel === "proofs", "Several recipes side by side", () =>
        onPanel(panel === "proofs" ? null : "proofs"),
      )}
      {recipes}
      <span className="grow" />
      {word("Error map", look === "errors", "Black where the result is right, white from ΔE 20 on", () =>
        onLook(look === "errors" ? "result" : "errors"),
      )}
      {tiled &&
        word("Tile losses", look === "tiles", "What the tile limit cost each tile: white from ΔE 5 on", () =>
          onLook(look === "tiles" ? "result" : "tiles"),
        )}
      {word("In gray", look === "gray", "Lightness alone, original and result", () =>
        onLook(look === "gray" ? "result" : "gray"),
      )}
      {word(
        "Two panes",
        mode === "panes",
        "Side by side instead of under one divider; hold F to flicker",
        () => onMode(mode === "panes" ? "divider" : "panes"),
      )}
    </div>
  );
}

/** Tiles that a limit cost most, outlined over the picture. */
function WorstTiles({
  tiles,
  size,
  view,
}: {
  tiles: number[][];
  size: NonNullable<Recipe["tile"]>;
  view: { x: number; y: number; zoom: number };
}) {
  return (
    <svg
      role="img"
      aria-label={`${tiles.length} tiles that the limit cost most`}
      className="pointer-events-none absolute inset-0 size-full"
    >
      <g transform={`translate(${view.x} ${view.y}) scale(${view.zoom})`}>
        {tiles.map(([row = 0, column = 0]) => (
          <rect
            key={`${row}-${column}`}
            x={column * size.width}
            y={row * size.height}
            width={size.width}
            height={size.height}
            fill="none"
            stroke="#fff"
            strokeWidth={1.5}
            vectorEffect="non-scaling-stroke"
            style={{ outline: "1px solid #000" }}
          />
        ))}
      </g>
    </svg>
  );
}

/** Cut the picture down to this palette. */
export function ReduceStage() {
  const bench = useBench();
  const { palette, link, preview, shown, recipe, setDraft, busy, keeping, menus } = bench;
  const [panel, setPanel] = useState<Panel>(null);
  const [look, setLook] = useState<Look>("result");
  const [mode, setMode] = useState<CompareMode>("divider");
  const [weigh, setWeigh] = useState<WeighState>({ shape: "rectangle", weight: 4, radius: 0.06 });
  const [pixel, setPixel] = useState<{ x: number; y: number } | null>(null);
  const job = useJobs().find((entry) => entry.palette === palette.id && isOpen(entry));
  const original = useOriginal(link?.picture.id);
  const grayOriginal = useOriginal(look === "gray" ? link?.picture.id : undefined, true);
  const { painted, source, error } = usePainted(palette.id, link, preview, shown, look === "gray");
  const proposed = preview?.kind === "reduce" ? preview.proposal : null;
  const errors = useErrorMap(palette, link, recipe, look === "errors");
  const tiles = useTileMap(palette, link, proposed, recipe, look === "tiles");
  if (!link) {
    return (
      <div className="grid grow place-items-center">
        <div className="grid w-full max-w-2xl grid-cols-2 items-start gap-8">
          <DropHint
            title="No picture is on this bench"
            text="Drop a PNG, JPEG, WebP or GIF anywhere, or choose one. It opens on a bench of its own, reduced and ready."
          />
          <section className="max-h-80 overflow-y-auto">
            <h2 className="mb-2 text-label font-semibold">
              {shown.length > 0 ? "Or paint one with the strip as it is" : "Or reduce one of the shelf"}
            </h2>
            <ShelfPictures />
          </section>
        </div>
      </div>
    );
  }
  const current = recipe ?? link.recipe;
  const change = (part: Partial<Recipe>) =>
    setDraft({ kind: "reduce", picture: link.picture.id, recipe: { ...current, ...part } });
  const notes = [...link.picture.notes, ...(proposed?.notes ?? link.notes)];
  const worst = proposed && !proposed.is_full ? [] : (proposed ?? link).worst_tiles;
  const swatchAt = (x: number, y: number) => {
    if (!source) return null;
    const column = Math.floor((x * source.width) / link.picture.width);
    const row = Math.floor((y * source.height) / link.picture.height);
    const id = source.table[source.indices[row * source.width + column] ?? 0];
    const index = shown.findIndex((swatch) => swatch.id === id);
    const swatch = shown[index];
    return swatch ? { swatch, index } : null;
  };
  const left = look === "gray" ? grayOriginal : original;
  const right = look === "errors" ? errors : look === "tiles" ? tiles : (painted?.canvas ?? null);
  const shows = { errors: "error, white from ΔE 20", tiles: "lost to the limit, white from ΔE 5" };
  const count = `${proposed ? proposed.swatches.length : shown.length} colors`;
  return (
    <>
      <RecipeSentence recipe={current} onChange={change} />
      <Figures />
      <Looks
        recipes={<KeptRecipes recipe={current} onTake={change} />}
        panel={panel}
        look={look}
        mode={mode}
        tiled={Boolean(current.tile)}
        onPanel={setPanel}
        onLook={setLook}
        onMode={setMode}
      />
      {panel === "proofs" && (
        <ProofSheet
          picture={link.picture.id}
          base={current}
          size={{ width: link.picture.width, height: link.picture.height }}
          onTake={(taken) => {
            change(taken);
            setPanel(null);
          }}
        />
      )}
      {panel === "curve" && (
        <Curve
          palette={palette.id}
          picture={link.picture.id}
          colors={current.colors}
          most={menus.most_colors}
          onChoose={(colors) => {
            const bound = menus.choosers.find((entry) => entry.id === current.chooser)?.sets_count;
            change(bound ? { colors, chooser: "perceptual" } : { colors });
          }}
        />
      )}
      {panel === "weigh" && (
        <WeighBar
          state={weigh}
          marks={current.marks}
          onState={setWeigh}
          onMarks={(marks) => change({ marks })}
          onDone={() => setPanel(null)}
        />
      )}
      <div className={`relative flex min-h-0 grow flex-col ${panel === "proofs" ? "hidden" : ""}`}>
        {(busy || (keeping && !job)) && (
          <div
            role="progressbar"
            aria-label="Reducing"
            className="absolute inset-x-0 top-0 z-20 h-[3px] overflow-hidden bg-line"
          >
            <div className="busy-bar h-full w-1/3 bg-ink" />
          </div>
        )}
        <PictureArea
          name={link.picture.name}
          width={link.picture.width}
          height={link.picture.height}
          original={left}
          result={right}
          version={painted?.version ?? 0}
          sides={["original", look === "errors" || look === "tiles" ? shows[look] : count]}
          mode={mode}
          corner={<PictureChoice />}
          onPixel={setPixel}
        >
          {(view) => (
            <>
              {current.tile && look === "result" && worst.length > 0 && (
                <WorstTiles tiles={worst} size={current.tile} view={view} />
              )}
              {panel === "weigh" && (
                <WeighLayer
                  view={view}
                  width={link.picture.width}
                  height={link.picture.height}
                  marks={current.marks}
                  state={weigh}
                  onMark={(mark) => change({ marks: [...current.marks, mark] })}
                />
              )}
              {panel !== "weigh" && <PixelReadout pixel={pixel} original={original} swatchAt={swatchAt} />}
            </>
          )}
        </PictureArea>
        {error && (
          <p role="alert" className="mt-2 text-small">
            {error.message}
          </p>
        )}
        {notes.length > 0 && <p className="mt-2 text-small text-quiet">{notes.join(" ")}</p>}
      </div>
    </>
  );
}
