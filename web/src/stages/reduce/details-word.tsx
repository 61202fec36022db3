import type { Recipe } from "../../api/types";
import { useMenus } from "../../bench/context";
import { useScreen } from "../../shell/store";
import { PanelWord } from "../../ui/sentence";
import { Slider } from "../../ui/slider";
import type { Change } from "./recipe-sentence";

function Row({ label, children }: { label: string; children: React.ReactNode }) {
  return (
    <div className="grid grid-cols-[96px_1fr] items-start gap-x-3 border-t border-line py-2 first:border-0 first:pt-0">
      <span className="pt-0.5 text-small text-quiet">{label}</span>
      <div className="min-w-0 text-small">{children}</div>
    </div>
  );
}

interface RadiosProps {
  name: string;
  value: string;
  choices: { id: string; label: string; use?: string }[];
  onChange: (id: string) => void;
}

function Radios({ name, value, choices, onChange }: RadiosProps) {
  return (
    <fieldset className="m-0 flex flex-wrap gap-x-3 gap-y-1 border-0 p-0">
      <legend className="sr-only">{name}</legend>
      {choices.map((choice) => (
        <label key={choice.id} title={choice.use} className="flex cursor-pointer items-center gap-1.5">
          <input
            type="radio"
            name={name}
            className="accent-ink"
            checked={choice.id === value}
            onChange={() => onChange(choice.id)}
          />
          {choice.label}
        </label>
      ))}
    </fieldset>
  );
}

function Amount({
  label,
  value,
  max,
  none,
  onChange,
}: {
  label: string;
  value: number;
  max: number;
  none: string;
  onChange: (value: number) => void;
}) {
  return (
    <div className="grid grid-cols-[1fr_64px] items-center gap-3">
      <Slider label={label} value={value} min={0} max={max} step={0.5} onChange={onChange} />
      <span className="text-right">{value === 0 ? none : `ΔE ${value}`}</span>
    </div>
  );
}

const TILES = [
  { id: "", label: "no limit" },
  { id: "8x8:2", label: "2 in 8×8" },
  { id: "8x8:4", label: "4 in 8×8" },
  { id: "16x16:4", label: "4 in 16×16" },
  { id: "8x1:2", label: "2 in 8×1" },
];

function tileId(tile: Recipe["tile"]) {
  return tile ? `${tile.width}x${tile.height}:${tile.colors}` : "";
}

function tileOf(id: string): Recipe["tile"] {
  const match = /^(\d+)x(\d+):(\d+)$/.exec(id);
  return match ? { width: Number(match[1]), height: Number(match[2]), colors: Number(match[3]) } : null;
}

/** A limit of the artist's own: colors, width and height of a tile. */
function OwnTile({ tile, onChange }: { tile: NonNullable<Recipe["tile"]>; onChange: Change }) {
  const field = (label: string, key: "colors" | "width" | "height") => (
    <input
      type="number"
      aria-label={label}
      min={1}
      max={256}
      value={tile[key]}
      className="w-11 border-b border-ink bg-transparent text-right"
      onChange={(event) => {
        const value = Math.round(Number(event.target.value));
        if (value >= 1 && value <= 256) onChange({ tile: { ...tile, [key]: value } });
      }}
    />
  );
  return (
    <p className="mt-1.5 flex items-baseline gap-1.5 whitespace-nowrap">
      at most {field("Colors in a tile", "colors")} colors in {field("Width of a tile", "width")} ×{" "}
      {field("Height of a tile", "height")} pixels
    </p>
  );
}

/** Everything that is rarely changed; the word says how much of it is. */
export function DetailsWord({ recipe, onChange }: { recipe: Recipe; onChange: Change }) {
  const menus = useMenus();
  const ground = useScreen((screen) => screen.ground);
  const dither = menus.dithers.find((entry) => entry.id === recipe.dither);
  const asItIs = menus.choosers.find((entry) => entry.id === recipe.chooser)?.needs === "palette";
  const changed = [
    recipe.space !== "oklab",
    recipe.order !== "lightness" && !asItIs,
    recipe.flatten !== null,
    recipe.tile !== null,
    dither?.id !== "none" && (recipe.working !== "linear" || recipe.flats > 0 || recipe.pair_limit > 0),
    Boolean(dither?.is_diffusion) && !recipe.serpentine,
  ].filter(Boolean).length;
  const known = TILES.some((tile) => tile.id === tileId(recipe.tile));
  return (
    <PanelWord
      wide
      label="Details"
      text={changed === 0 ? "as usual" : `with ${changed} ${changed === 1 ? "detail" : "details"}`}
    >
      <Row label="Nearest color">
        <Radios
          name="Nearest color"
          value={recipe.space}
          choices={menus.metrics}
          onChange={(space) => onChange({ space })}
        />
      </Row>
      {!asItIs && (
        <Row label="Strip order">
          <Radios
            name="Strip order"
            value={recipe.order}
            choices={menus.orders}
            onChange={(order) => onChange({ order: order as Recipe["order"] })}
          />
        </Row>
      )}
      {dither && dither.id !== "none" && (
        <>
          <Row label="Mixed in">
            <Radios
              name="Mixed in"
              value={recipe.working}
              choices={[
                { id: "linear", label: "linear light", use: "A fine pattern adds up as the eye sees it." },
                { id: "oklab", label: "OKLab", use: "Keeps lightness steps even; darker from afar." },
              ]}
              onChange={(working) => onChange({ working: working as Recipe["working"] })}
            />
          </Row>
          {dither.is_diffusion && (
            <Row label="Rows">
              <Radios
                name="Rows"
                value={recipe.serpentine ? "to and fro" : "one way"}
                choices={[
                  { id: "to and fro", label: "to and fro" },
                  { id: "one way", label: "one way" },
                ]}
                onChange={(way) => onChange({ serpentine: way === "to and fro" })}
              />
            </Row>
          )}
          <Row label="Clean flats">
            <Amount
              label="Clean flats within"
              value={recipe.flats}
              max={10}
              none="off"
              onChange={(flats) => onChange({ flats })}
            />
          </Row>
          <Row label="Pair contrast">
            <Amount
              label="Largest contrast of a pair"
              value={recipe.pair_limit}
              max={60}
              none="any"
              onChange={(pair_limit) => onChange({ pair_limit })}
            />
          </Row>
        </>
      )}
      <Row label="Tile limit">
        <Radios
          name="Tile limit"
          value={tileId(recipe.tile)}
          choices={
            known
              ? TILES
              : [...TILES, { id: tileId(recipe.tile), label: tileId(recipe.tile).replace(":", ": ") }]
          }
          onChange={(id) => onChange({ tile: tileOf(id) })}
        />
        {recipe.tile && <OwnTile tile={recipe.tile} onChange={onChange} />}
      </Row>
      <Row label="Clear pixels">
        <Radios
          name="Clear pixels"
          value={recipe.flatten === null ? "index" : "flatten"}
          choices={[
            { id: "index", label: "one transparent index" },
            { id: "flatten", label: `laid over ${recipe.flatten ?? "ground"}` },
          ]}
          onChange={(id) => onChange({ flatten: id === "flatten" ? ground : null })}
        />
      </Row>
    </PanelWord>
  );
}
