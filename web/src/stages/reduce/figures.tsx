import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { isOpen, useJobs } from "../../api/jobs";
import { ask } from "../../api/queries";
import { isListTooShort } from "../../api/recipe";
import type { Job, Recipe } from "../../api/types";
import {
  useCommands,
  useDraftRecipe,
  useIsBusy,
  useIsKeeping,
  useLinked,
  useMenus,
  usePalette,
  usePreview,
  useShown,
} from "../../bench/context";
import { Figure } from "../../bench/draft-bar";
import { useJobActions } from "../../shell/jobs";
import { Button, TextButton } from "../../ui/button";
import { DistanceWord } from "./distance-word";
import { kilobytes } from "./size";

const SETTLE_MS = 350;

/** The size of the file, measured by writing it; asked for once the controls rest. */
function useFileSize() {
  const palette = usePalette();
  const link = useLinked();
  const recipe = useDraftRecipe();
  const preview = usePreview();
  const busy = useIsBusy();
  const picture = link?.picture.id ?? "";
  const [settled, setSettled] = useState<Recipe | null>(null);
  useEffect(() => {
    const timer = setTimeout(() => setSettled(recipe), recipe ? SETTLE_MS : 0);
    return () => clearTimeout(timer);
  }, [recipe]);
  // While a recoloring is measured its figures of before stay; another reduction has figures of its own.
  const map = link?.maps[0];
  const measured = useRef(map);
  const kept = useQuery({
    ...ask.figures(palette, picture),
    enabled: !recipe && picture !== "",
    placeholderData: (before) => (measured.current === map ? before : undefined),
  });
  useEffect(() => {
    if (kept.data && !kept.isPlaceholderData) measured.current = map;
  }, [kept.data, kept.isPlaceholderData, map]);
  const proposed = useQuery({
    ...ask.proposedSize(palette, picture, settled),
    // A picture that is previewed smaller has no file yet: nothing is asked.
    enabled:
      settled !== null &&
      settled === recipe &&
      preview?.kind === "reduce" &&
      preview.proposal.is_full &&
      !busy,
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
    <span className="flex shrink-0 items-center gap-3">
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

/** What came out, and what may be done with it. */
export function Figures() {
  const palette = usePalette();
  const link = useLinked();
  const preview = usePreview();
  const recipe = useDraftRecipe();
  const keeping = useIsKeeping();
  const busy = useIsBusy();
  const shown = useShown();
  const menus = useMenus();
  const { keep, putBack, operate } = useCommands();
  const { bytes, figures: now } = useFileSize();
  const job = useJobs().find((entry) => entry.palette === palette.id && isOpen(entry));
  if (!link) return null;
  const proposed = preview?.kind === "reduce" ? preview.proposal : null;
  // Figures are those of the recipe that is written above, or none: never of one before it.
  const figures = recipe ? (busy ? null : (proposed?.figures ?? null)) : (now ?? link.figures);
  const unused = shown.filter((swatch) => swatch.coverage === 0 && !swatch.locked);
  const scaled = proposed && !proposed.is_full;
  return (
    // What can be done stands to the right, whole; figures that say least go first where there is no room.
    <div className="mb-2 flex min-h-8 items-center gap-x-5 text-small text-quiet">
      <div className="flex min-w-0 grow items-center gap-x-5 overflow-hidden py-1 max-lg:flex-wrap max-lg:overflow-visible">
        {!job && !recipe && (
          <span className="whitespace-nowrap" title="Distinct opaque colors in the original">
            <strong className="font-semibold text-ink">{link.picture.distinct.toLocaleString("en")}</strong>{" "}
            colors in the picture
          </span>
        )}
        <Figure
          name="used"
          value={figures ? `${figures.used} of ${shown.length}` : "…"}
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
          name="ΔE close up"
          value={figures?.mean.toFixed(1) ?? "…"}
          title="Mean color difference between original and result, pixel by pixel, in OKLab × 100"
        />
        <Figure
          name="95 % under"
          value={figures?.p95.toFixed(1) ?? "…"}
          title="95 of 100 pixels differ less than this"
        />
        <span className="whitespace-nowrap">
          seen from <DistanceWord distance={recipe?.distance ?? link.recipe.distance} />{" "}
          <strong
            className="font-semibold text-ink"
            title="Mean color difference once the eye has mixed what lies close together, in OKLab × 100"
          >
            {figures?.afar == null ? "…" : figures.afar.toFixed(1)}
          </strong>
        </span>
        {!job && !scaled && (
          <Figure
            name="file"
            value={bytes === null ? "…" : kilobytes(bytes)}
            title="Size of the indexed PNG that Deliver writes"
          />
        )}
      </div>
      {job ? (
        <JobProgress job={job} />
      ) : keeping && recipe ? (
        <span role="status" className="shrink-0 font-semibold text-ink">
          Reducing at full size …
        </span>
      ) : recipe ? (
        <span className="flex shrink-0 items-center gap-2">
          {scaled && (
            <span title="On a smaller copy, or with colors looked for quickly; keeping works at full size">
              rough preview
            </span>
          )}
          {isListTooShort(recipe, menus) && (
            <span className="text-ink">The list holds too few colors yet: choose, type or paste them.</span>
          )}
          <Button onClick={putBack} title="Put the palette back as it is kept (Escape)">
            Put back
          </Button>
          <Button primary disabled={!preview} onClick={() => void keep()} title="Make this the palette (K)">
            Keep
          </Button>
        </span>
      ) : null}
    </div>
  );
}
