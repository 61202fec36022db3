import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { client, type Recipe, unwrap } from "../../api/client";
import { type BenchState, useBench } from "../../bench/context";
import { DropHint } from "../../shelf/drop";
import { useScreen } from "../../shell/store";
import { Button } from "../../ui/button";
import { ChoiceWord, NumberWord, PanelWord, Sentence } from "../../ui/sentence";
import { PictureArea } from "./picture-area";
import { useOriginal, usePainted } from "./use-painted";

const SETTLE_MS = 350;

function kilobytes(bytes: number) {
  return bytes < 1024
    ? `${bytes} B`
    : bytes < 10_240
      ? `${(bytes / 1024).toFixed(1)} KB`
      : `${Math.round(bytes / 1024)} KB`;
}

/** The size of the file, measured by writing it; asked for once the controls rest. */
function useFileSize(bench: BenchState) {
  const { palette, recipe, preview, busy } = bench;
  const picture = palette.links[0]?.picture.id ?? "";
  const [settled, setSettled] = useState<Recipe | null>(null);
  useEffect(() => {
    const timer = setTimeout(() => setSettled(recipe), recipe ? SETTLE_MS : 0);
    return () => clearTimeout(timer);
  }, [recipe]);
  const path = { palette_id: palette.id };
  const kept = useQuery({
    queryKey: ["figures", palette.id, picture, palette.revision],
    enabled: !recipe && picture !== "",
    staleTime: Infinity,
    placeholderData: (before) => before,
    queryFn: () =>
      unwrap(
        client.GET("/api/palettes/{palette_id}/pictures/{picture_id}/figures", {
          params: { path: { ...path, picture_id: picture } },
        }),
      ),
  });
  const proposed = useQuery({
    queryKey: ["size", palette.id, picture, palette.revision, settled],
    enabled: settled !== null && settled === recipe && preview !== null && !busy,
    staleTime: Infinity,
    queryFn: () =>
      unwrap(
        client.POST("/api/palettes/{palette_id}/previews/size", {
          params: { path },
          body: { picture, recipe: settled as Recipe },
        }),
      ),
  });
  return {
    bytes: recipe ? (settled === recipe ? (proposed.data?.bytes ?? null) : null) : (kept.data?.bytes ?? null),
    figures: kept.data ?? null,
  };
}

function Figure({ name, value, title }: { name: string; value: string; title: string }) {
  return (
    <span title={title} className="whitespace-nowrap">
      {name} <strong className="font-semibold text-ink">{value}</strong>
    </span>
  );
}

function Figures() {
  const bench = useBench();
  const { palette, preview, recipe, keep, discard, keeping, busy, shown } = bench;
  const link = palette.links[0];
  const { bytes, figures: now } = useFileSize(bench);
  if (!link) return null;
  const proposed = preview?.kind === "reduce" ? preview.proposal : null;
  const figures = proposed?.figures ?? now ?? link.figures;
  const scaled = proposed && !proposed.is_full;
  return (
    <div className="mb-2 flex min-h-8 items-center gap-x-5 text-[13px] text-quiet">
      <span className="whitespace-nowrap" title="Distinct opaque colors in the original">
        <strong className="font-semibold text-ink">{link.picture.distinct.toLocaleString("en")}</strong>{" "}
        colors in the picture
      </span>
      <Figure
        name="used"
        value={`${figures.used} of ${shown.length}`}
        title="Swatches that paint at least one pixel"
      />
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
      {keeping ? (
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

function LockedPanel() {
  const { shown, operate } = useBench();
  const locked = shown.filter((swatch) => swatch.locked);
  const selected = useScreen((screen) => screen.selected);
  return (
    <>
      {locked.length === 0 ? (
        <p className="mb-2">
          No swatch is locked. A locked swatch stays just as it is in the next reduction.
        </p>
      ) : (
        <ul className="m-0 mb-2 grid max-h-60 list-none gap-1 overflow-y-auto p-0">
          {locked.map((swatch) => (
            <li key={swatch.id} className="flex items-center gap-2">
              <span className="size-5 shrink-0" style={{ background: swatch.hex }} />
              <span className="min-w-0 grow truncate">{swatch.name}</span>
              <button
                type="button"
                className="text-[13px] font-semibold hover:underline"
                onClick={() => void operate({ kind: "lock_swatches", ids: [swatch.id], locked: false })}
              >
                Unlock
              </button>
            </li>
          ))}
        </ul>
      )}
      <Button
        disabled={selected.length === 0}
        onClick={() => void operate({ kind: "lock_swatches", ids: selected, locked: true })}
      >
        Lock the selected {selected.length === 1 ? "swatch" : `${selected.length} swatches`}
      </Button>
    </>
  );
}

/** Cut the picture down to this palette. */
export function ReduceStage() {
  const bench = useBench();
  const { palette, preview, shown, menus, recipe, setDraft, busy, keeping } = bench;
  const link = palette.links[0];
  const original = useOriginal(link?.picture.id);
  const { painted, error } = usePainted(palette.id, link, preview, shown);
  if (!link) {
    return (
      <div className="grid grow place-items-center">
        <DropHint
          title="No picture is on this bench"
          text="Drop a PNG, JPEG, WebP or GIF anywhere, or choose one. It opens on a bench of its own, reduced and ready."
        />
      </div>
    );
  }
  const current = recipe ?? link.recipe;
  const change = (part: Partial<Recipe>) => setDraft({ kind: "reduce", recipe: { ...current, ...part } });
  const dither = menus.dithers.find((entry) => entry.id === current.dither);
  const locked = shown.filter((swatch) => swatch.locked).length;
  const notes = [
    ...link.picture.notes,
    ...(preview?.kind === "reduce" ? preview.proposal.notes : link.notes),
  ];
  return (
    <>
      <Sentence label="Recipe of the reduction">
        Reduce to{" "}
        <NumberWord
          label="Number of colors"
          value={current.colors}
          min={2}
          max={menus.most_colors}
          unit={(count) => (count === 1 ? "color" : "colors")}
          hint="Type a number, or step with ↑ and ↓, by ten with Shift. A clear pixel takes one index of its own."
          onChange={(colors) => change({ colors })}
        />{" "}
        chosen by{" "}
        <ChoiceWord
          label="How colors are chosen"
          value={current.chooser}
          choices={menus.choosers}
          onChange={(chooser) => change({ chooser })}
        />
        , keeping{" "}
        <PanelWord label="Locked swatches" text={locked === 0 ? "none locked" : `${locked} locked`}>
          <LockedPanel />
        </PanelWord>
        , dithered{" "}
        <ChoiceWord
          label="Dither"
          value={current.dither}
          choices={menus.dithers}
          onChange={(id) => change({ dither: id })}
        />
        {dither?.has_strength && (
          <>
            {" "}
            at{" "}
            <span className="whitespace-nowrap">
              <NumberWord
                label="Dither strength in percent"
                value={current.strength}
                min={0}
                max={100}
                unit={() => "%"}
                hint="How much of the difference is spread: less keeps flats calmer, more keeps glows smoother."
                onChange={(strength) => change({ strength })}
              />
              .
            </span>
          </>
        )}
        {!dither?.has_strength && "."}
      </Sentence>
      <Figures />
      <div className="relative flex min-h-0 grow flex-col">
        {(busy || keeping) && (
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
          original={original}
          result={painted?.canvas ?? null}
          version={painted?.version ?? 0}
          sides={["original", `${current.colors} colors`]}
        />
        {error && (
          <p role="alert" className="mt-2 text-[13px]">
            {error.message}
          </p>
        )}
        {notes.length > 0 && <p className="mt-2 text-[13px] text-quiet">{notes.join(" ")}</p>}
      </div>
    </>
  );
}
