import { useEffect, useState } from "react";
import { isOpen, useJobs } from "../../api/jobs";
import { canSearchLonger } from "../../api/recipe";
import type { MapKind, Palette, Recipe } from "../../api/types";
import {
  useCommands,
  useDrafted,
  useDraftRecipe,
  useIsBusy,
  useIsKeeping,
  useLinked,
  useMenus,
  usePalette,
  usePreview,
  useShown,
} from "../../bench/context";
import { PictureChoice, ShelfPictures } from "../../bench/picture-choice";
import { triedRecipe } from "../../bench/tried";
import { useRegions } from "../../bench/use-regions";
import { DropHint } from "../../imports/drop";
import { type CompareMode, PictureArea } from "../../picture/picture-area";
import { PixelReadout } from "../../picture/pixel-readout";
import { useErrorMap, useOriginal, usePainted, useTileMap } from "../../picture/use-painted";
import { TextButton } from "../../ui/button";
import { Curve } from "./curve";
import { Figures } from "./figures";
import { KeepBar, KeepLayer } from "./keep-picked";
import { KeptRecipes } from "./kept-recipes";
import { ProofSheet } from "./proof-sheet";
import { RecipeSentence } from "./recipe-sentence";
import { WeighBar, WeighLayer, type WeighState } from "./weigh";

type Panel = "curve" | "weigh" | "proofs" | "keep" | null;
type Look = "result" | "errors" | "afar" | "tiles" | "gray";

const MAPS: Partial<Record<Look, MapKind>> = { errors: "pixels", afar: "afar" };

/** Words at the right of the picture's line: other ways to look at it. */
function Looks({
  recipes,
  longer,
  panel,
  look,
  mode,
  tiled,
  onPanel,
  onLook,
  onMode,
}: {
  recipes: React.ReactNode;
  longer: React.ReactNode;
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
      className={`min-h-7 border-b-2 text-small whitespace-nowrap ${pressed ? "border-ink font-semibold" : "border-transparent text-quiet hover:text-ink"}`}
      onClick={onClick}
    >
      {label}
    </button>
  );
  return (
    <div className="mb-1.5 flex flex-wrap items-center gap-x-5">
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
      {longer}
      <span className="grow" />
      {word("Error map", look === "errors", "Black where the result is right, white from ΔE 20 on", () =>
        onLook(look === "errors" ? "result" : "errors"),
      )}
      {word("From afar", look === "afar", "The error as it is seen from a distance: white from ΔE 5 on", () =>
        onLook(look === "afar" ? "result" : "afar"),
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

/** A recipe that was tried out and not kept is tried out again: on coming back, after a reload, after another step. */
function useTriedAgain(picture: string | undefined) {
  const { id, revision } = usePalette(standOf);
  const { tryRecipe } = useCommands();
  const drafted = useDrafted();
  const keeping = useIsKeeping();
  // biome-ignore lint/correctness/useExhaustiveDependencies: each state of the palette is another one to try it on
  useEffect(() => {
    const recipe = triedRecipe(id, picture);
    if (picture && recipe && !drafted && !keeping) tryRecipe(picture, recipe);
  }, [id, picture, revision, drafted, keeping, tryRecipe]);
}

const standOf = ({ id, revision }: Palette) => ({ id, revision });

/** Cut the picture down to this palette. */
export function ReduceStage() {
  const palette = usePalette();
  const link = useLinked();
  const preview = usePreview();
  const shown = useShown();
  const recipe = useDraftRecipe();
  const busy = useIsBusy();
  const keeping = useIsKeeping();
  const menus = useMenus();
  const commands = useCommands();
  const [panel, setPanel] = useState<Panel>(null);
  const [look, setLook] = useState<Look>("result");
  const [mode, setMode] = useState<CompareMode>("divider");
  const [weigh, setWeigh] = useState<WeighState>({ shape: "rectangle", weight: 4, radius: 0.06 });
  const [pixel, setPixel] = useState<{ x: number; y: number } | null>(null);
  const job = useJobs().find((entry) => entry.palette === palette.id && isOpen(entry));
  useTriedAgain(link?.picture.id);
  const original = useOriginal(link?.picture.id);
  const grayOriginal = useOriginal(look === "gray" ? link?.picture.id : undefined, true);
  const { painted, source, error } = usePainted(palette.id, link, preview, shown, look === "gray");
  const regions = useRegions(source);
  const proposed = preview?.kind === "reduce" ? preview.proposal : null;
  const errors = useErrorMap(palette, link, recipe, MAPS[look] ?? null);
  const tiles = useTileMap(palette, link, proposed, recipe, look === "tiles");
  if (!link) {
    return (
      <div className="grid grow place-items-center">
        <div className="grid w-full max-w-2xl grid-cols-1 items-start gap-8 md:grid-cols-2">
          <DropHint
            title="No picture is on this bench"
            text="Drop a picture anywhere, or choose one. It opens on a bench of its own, reduced and ready."
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
    commands.tryRecipe(link.picture.id, { ...current, search: "usual", ...part });
  const searching = (from: Recipe) =>
    ({
      kind: "reduce",
      picture: link.picture.id,
      recipe: { ...from, search: "longer" },
    }) as const;
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
  const right = MAPS[look] ? errors : look === "tiles" ? tiles : (painted?.canvas ?? null);
  const shows: Partial<Record<Look, string>> = {
    errors: "error, white from ΔE 20",
    afar: "error from afar, white from ΔE 5",
    tiles: "lost to the limit, white from ΔE 5",
  };
  const count = `${proposed ? proposed.swatches.length : shown.length} colors`;
  return (
    <>
      <RecipeSentence recipe={current} onChange={change} onPick={() => setPanel("keep")} />
      <Figures />
      <Looks
        recipes={<KeptRecipes recipe={current} onTake={change} />}
        longer={
          canSearchLonger(current, menus) && (
            <TextButton
              className="-mx-1.5"
              disabled={job !== undefined}
              title="Look longer for better colors: a job that can be called off, and never ends worse than it began"
              onClick={() => void commands.change(searching(current))}
            >
              Search longer
            </TextButton>
          )
        }
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
      {panel === "keep" && <KeepBar onDone={() => setPanel(null)} />}
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
          resultCopies={right && right === painted?.canvas ? painted.copies : undefined}
          version={painted?.version ?? 0}
          sides={["original", shows[look] ?? count]}
          mode={mode}
          corner={<PictureChoice />}
          regions={regions}
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
              {panel === "keep" && <KeepLayer view={view} picture={link.picture} />}
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
