import { useQueries, useQuery, useQueryClient } from "@tanstack/react-query";
import { X } from "lucide-react";
import { type PointerEvent, useEffect, useLayoutEffect, useMemo, useRef, useState } from "react";
import { keepProofs } from "../../api/commands";
import { ask, KEYS } from "../../api/queries";
import type { Preview, Recipe } from "../../api/types";
import { inWords } from "../../api/words";
import { useMenus, usePalette } from "../../bench/context";
import { useLens } from "../../lens/lens";
import { draw } from "../../picture/draw";
import { lookupTable, paint } from "../../picture/lookup";

import { combinations, MOST_PROOFS, proofLabel, sameRecipe } from "../../picture/proofs";
import { fitView, type View, zoomAt } from "../../picture/view";
import { useScreen } from "../../shell/store";
import { Button, TextButton } from "../../ui/button";
import { kilobytes } from "./size";

const COUNTS = [4, 8, 12, 16, 24, 32, 64, 128];
const FIRST = {
  counts: [8, 16, 32],
  choosers: [] as string[],
  dithers: ["none", "floyd-steinberg"],
  tunings: [] as string[],
};
const UNTUNED = "untuned";

type Reduced = Extract<Preview, { kind: "reduce" }>;

/** A reduction painted once, at its own size. */
function usePaintedProof(preview: Reduced | undefined) {
  const lens = useLens();
  return useMemo(() => {
    if (!preview) return null;
    const { width, height, table, swatches } = preview.proposal;
    const data = new ImageData(width, height);
    const words = lookupTable(table, swatches, null, null, 0, false, lens.rgb);
    paint(preview.indices, words, new Uint32Array(data.data.buffer));
    const canvas = new OffscreenCanvas(width, height);
    canvas.getContext("2d", { willReadFrequently: true })?.putImageData(data, 0, 0);
    return canvas;
  }, [preview, lens]);
}

interface TileProps {
  recipe: Recipe;
  preview: Reduced | undefined;
  problem: string | null;
  bytes: number | null | undefined;
  size: { width: number; height: number };
  view: View | null;
  onBox: (width: number, height: number) => void;
  onView: (change: (view: View) => View) => void;
  onTake: () => void;
  onRemove: () => void;
  chosen: boolean;
}

function Tile(props: TileProps) {
  const { recipe, preview, problem, bytes, size, view, onBox, onView, onTake, onRemove, chosen } = props;
  const menus = useMenus();
  const painted = usePaintedProof(preview);
  const asOthers = useScreen((screen) => screen.asOthers);
  const canvas = useRef<HTMLCanvasElement>(null);
  const grip = useRef<{ x: number; y: number } | null>(null);
  useLayoutEffect(() => {
    const target = canvas.current;
    if (!target) return;
    const box = { width: target.clientWidth, height: target.clientHeight };
    draw(target, painted, { size: box, view, ...size, from: 0, to: box.width, asOthers });
  }, [painted, view, size, asOthers]);
  useEffect(() => {
    const target = canvas.current;
    if (!target) return;
    const observer = new ResizeObserver(() => onBox(target.clientWidth, target.clientHeight));
    observer.observe(target);
    const wheel = (event: WheelEvent) => {
      event.preventDefault();
      const rect = target.getBoundingClientRect();
      onView((before) =>
        zoomAt(
          before,
          before.zoom * 1.0016 ** -event.deltaY,
          event.clientX - rect.left,
          event.clientY - rect.top,
        ),
      );
    };
    target.addEventListener("wheel", wheel, { passive: false });
    return () => {
      observer.disconnect();
      target.removeEventListener("wheel", wheel);
    };
  }, [onBox, onView]);
  const move = (event: PointerEvent) => {
    const held = grip.current;
    if (!held) return;
    const [x, y] = [event.clientX - held.x, event.clientY - held.y];
    grip.current = { x: event.clientX, y: event.clientY };
    onView((before) => ({ ...before, x: before.x + x, y: before.y + y }));
  };
  const figures = preview?.proposal.figures;
  const label = proofLabel(recipe, menus);
  return (
    <li className="flex min-h-0 min-w-0 flex-col">
      <div
        className={`relative min-h-0 grow overflow-hidden bg-well ${chosen ? "shadow-[0_0_0_2px_var(--ground),0_0_0_4px_var(--ink)]" : ""}`}
      >
        <canvas
          ref={canvas}
          className="absolute inset-0 size-full cursor-grab touch-none active:cursor-grabbing"
          onPointerDown={(event) => {
            event.currentTarget.setPointerCapture(event.pointerId);
            grip.current = { x: event.clientX, y: event.clientY };
          }}
          onPointerMove={move}
          onPointerUp={() => {
            grip.current = null;
          }}
        />
        {problem ? (
          <p role="alert" className="absolute inset-x-3 top-3 text-small">
            {problem}
          </p>
        ) : (
          !preview && <p className="absolute inset-x-3 top-3 text-small text-quiet">Reducing …</p>
        )}
        <button
          type="button"
          aria-label={`Take ${label} off the sheet`}
          title="Take it off the sheet"
          className="absolute top-1 right-1 grid size-6 place-items-center rounded-md bg-panel"
          onClick={onRemove}
        >
          <X size={14} />
        </button>
      </div>
      <div className="pt-1">
        <span className="block truncate text-small leading-tight font-semibold" title={label}>
          {label}
        </span>
        <span className="flex items-center text-small leading-tight text-quiet">
          <span className="min-w-0 grow truncate">
            {figures
              ? `ΔE ${figures.mean.toFixed(1)}, 95 % ${figures.p95.toFixed(1)}, from afar ${figures.afar?.toFixed(1) ?? "…"} · ${bytes == null ? "…" : kilobytes(bytes)}`
              : " "}
          </span>
          <TextButton
            className="-mr-1.5 text-ink"
            disabled={!preview}
            onClick={onTake}
            aria-label={`Use ${label}`}
          >
            Use
          </TextButton>
        </span>
      </div>
    </li>
  );
}

function Chips({
  name,
  options,
  chosen,
  onTurn,
}: {
  name: string;
  options: { id: string; label: string }[];
  chosen: string[];
  onTurn: (id: string) => void;
}) {
  return (
    <fieldset className="m-0 flex flex-wrap items-center gap-1 border-0 p-0">
      <legend className="float-left mr-2 w-16 text-quiet">{name}</legend>
      {options.map(({ id, label }) => (
        <button
          key={id}
          type="button"
          aria-pressed={chosen.includes(id)}
          onClick={() => onTurn(id)}
          className="min-h-6 rounded border border-line px-2 aria-pressed:border-ink aria-pressed:bg-ink aria-pressed:text-ground"
        >
          {label}
        </button>
      ))}
    </fieldset>
  );
}

interface Props {
  picture: string;
  base: Recipe;
  size: { width: number; height: number };
  onTake: (recipe: Recipe) => void;
}

/** Several recipes side by side, in one view; saved with the picture. */
export function ProofSheet({ picture, base, size, onTake }: Props) {
  const palette = usePalette();
  const menus = useMenus();
  const say = useScreen((screen) => screen.say);
  const queries = useQueryClient();
  const key = KEYS.proofs(picture);
  const saved = useQuery({
    ...ask.proofs(picture),
  });
  const [picks, setPicks] = useState(FIRST);
  const [view, setView] = useState<View | null>(null);
  const box = useRef({ width: 0, height: 0 });
  const recipes = (saved.data?.recipes ?? []) as Recipe[];
  const [building, setBuilding] = useState(false);
  const isBuilding = building || (saved.data !== undefined && recipes.length === 0);
  const save = async (wanted: Recipe[]) => {
    queries.setQueryData(key, { recipes: wanted });
    try {
      await keepProofs(picture, wanted);
    } catch (error) {
      say(inWords(error), { kind: "wrong" });
      await queries.invalidateQueries({ queryKey: key });
    }
  };
  const proofs = useQueries({
    queries: recipes.map((recipe) => ({
      ...ask.proof(palette, picture, recipe),
    })),
  });
  const sizes = useQueries({
    queries: recipes.map((recipe, place) => ({
      ...ask.proposedSize(palette, picture, recipe),
      enabled: proofs[place]?.data !== undefined,
    })),
  });
  const turn = (name: keyof typeof FIRST, id: string | number) =>
    setPicks((before) => {
      const list = before[name] as (string | number)[];
      return { ...before, [name]: list.includes(id) ? list.filter((other) => other !== id) : [...list, id] };
    });
  const counts = [...picks.counts].sort((one, other) => one - other);
  const wanted = combinations(base, counts, picks.choosers, picks.dithers, [
    ...menus.grains
      .filter(({ label }) => picks.tunings.includes(label))
      .map(({ grain }) => ({ tune: true, grain })),
    ...(picks.tunings.includes(UNTUNED) ? [{ tune: false }] : []),
  ]);
  const onBox = (width: number, height: number) => {
    if (box.current.width === width && box.current.height === height) return;
    box.current = { width, height };
    setView(fitView(size.width, size.height, width, height, 0));
  };
  const stable = useRef({ onBox, onView: (change: (view: View) => View) => setView((v) => v && change(v)) });
  return (
    <div className="flex min-h-0 grow flex-col">
      {isBuilding ? (
        <div className="mb-2 flex items-end gap-4 border-y border-line py-2 text-small">
          <div className="grid grow gap-1">
            <Chips
              name="Counts"
              options={COUNTS.map((count) => ({ id: String(count), label: String(count) }))}
              chosen={picks.counts.map(String)}
              onTurn={(id) => turn("counts", Number(id))}
            />
            <Chips
              name="Choosers"
              options={menus.choosers.filter((entry) => !entry.needs)}
              chosen={picks.choosers}
              onTurn={(id) => turn("choosers", id)}
            />
            <Chips
              name="Dithers"
              options={menus.dithers}
              chosen={picks.dithers}
              onTurn={(id) => turn("dithers", id)}
            />
            <Chips
              name="Colors"
              options={[
                ...menus.grains.map(({ label }) => ({ id: label, label: `tuned, ${label} grain` })),
                { id: UNTUNED, label: UNTUNED },
              ]}
              chosen={picks.tunings}
              onTurn={(id) => turn("tunings", id)}
            />
          </div>
          <Button
            primary
            onClick={() => {
              setBuilding(false);
              void save(wanted);
            }}
          >
            Lay out {wanted.length} proofs
          </Button>
        </div>
      ) : (
        <div className="mb-1 flex min-h-8 items-center gap-3 text-small text-quiet">
          <span>
            <strong className="font-semibold text-ink">{recipes.length}</strong> proofs, zoomed in step
          </span>
          <span className="grow" />
          <TextButton onClick={() => setBuilding(true)}>Lay out anew</TextButton>
          <TextButton
            disabled={recipes.length >= MOST_PROOFS || recipes.some((recipe) => sameRecipe(recipe, base))}
            onClick={() => void save([...recipes, base])}
          >
            Add the present recipe
          </TextButton>
        </div>
      )}
      {saved.error && <p role="alert">{saved.error.message}</p>}
      {isBuilding ? (
        <p className="text-quiet">
          Choose counts, choosers, dithers and grains, up to {MOST_PROOFS} combinations. They stand side by
          side, zoomed in step, each with its figures; the sheet is saved with the picture.
        </p>
      ) : (
        <ul
          aria-label="Proofs"
          className="m-0 grid min-h-0 grow list-none auto-rows-[minmax(170px,1fr)] gap-x-3 gap-y-2 overflow-y-auto p-1"
          style={{
            gridTemplateColumns: `repeat(${Math.min(recipes.length, recipes.length > 6 ? 4 : 3)}, minmax(0, 1fr))`,
          }}
        >
          {recipes.map((recipe, place) => (
            <Tile
              // biome-ignore lint/suspicious/noArrayIndexKey: a sheet is its places
              key={place}
              recipe={recipe}
              preview={proofs[place]?.data}
              problem={proofs[place]?.error?.message ?? null}
              bytes={sizes[place]?.data?.bytes}
              size={size}
              view={view}
              onBox={stable.current.onBox}
              onView={stable.current.onView}
              chosen={sameRecipe(recipe, base)}
              onTake={() => onTake(recipe)}
              onRemove={() => void save(recipes.filter((_, other) => other !== place))}
            />
          ))}
        </ul>
      )}
    </div>
  );
}
