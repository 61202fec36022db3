import { useRef } from "react";
import { client, lookInto, type Recipe, unwrap } from "../../api/client";
import { useBench } from "../../bench/context";
import { useScreen } from "../../shell/store";
import { Button } from "../../ui/button";
import { ChoiceWord, NumberWord, PanelWord, Sentence } from "../../ui/sentence";
import { Slider } from "../../ui/slider";
import { ShelfPalettes } from "../arrange/other-palette";

type Change = (part: Partial<Recipe>) => void;

const MOST_LISTED = 1024;
const DEPTHS = ["3-3-2", "4-4-4", "5-5-5", "5-6-5", "6x6x6", "2x2x2"];

/** Locked swatches, and solid colors that must be there. */
function KeepingWord({ recipe, onChange }: { recipe: Recipe; onChange: Change }) {
  const { shown, operate } = useBench();
  const locked = shown.filter((swatch) => swatch.locked);
  const selected = useScreen((screen) => screen.selected);
  const solid = recipe.solid.length ? `, solid ${recipe.solid.join(" and ")}` : "";
  const turn = (name: "black" | "white") =>
    onChange({
      solid: recipe.solid.includes(name)
        ? recipe.solid.filter((other) => other !== name)
        : [...recipe.solid, name],
    });
  return (
    <PanelWord
      label="Locked swatches"
      text={`${locked.length === 0 ? "none" : locked.length} locked${solid}`}
    >
      {locked.length === 0 ? (
        <p className="mb-2">
          No swatch is locked. A locked swatch stays just as it is in the next reduction.
        </p>
      ) : (
        <ul className="m-0 mb-2 grid max-h-52 list-none gap-1 overflow-y-auto p-0">
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
      <div className="mt-3 flex gap-4 border-t border-line pt-2">
        {(["black", "white"] as const).map((name) => (
          <label key={name} className="flex items-center gap-2">
            <input
              type="checkbox"
              className="accent-ink"
              checked={recipe.solid.includes(name)}
              onChange={() => turn(name)}
            />
            solid {name}
          </label>
        ))}
      </div>
    </PanelWord>
  );
}

/** The list that colors are taken from: any palette of the shelf, or a file. */
function ListWord({ recipe, onChange }: { recipe: Recipe; onChange: Change }) {
  const say = useScreen((screen) => screen.say);
  const file = useRef<HTMLInputElement>(null);
  const take = async (id: string) => {
    const found = await unwrap(
      client.GET("/api/palettes/{palette_id}", { params: { path: { palette_id: id } } }),
    );
    const opaque = found.swatches.filter((swatch) => swatch.alpha > 0);
    onChange({
      listed: opaque.map((swatch) => swatch.hex.slice(0, 7)).slice(0, MOST_LISTED),
      list_name: found.name,
    });
  };
  const takeFile = async (chosen: File) => {
    try {
      const reading = (await lookInto(chosen, 64)).readings[0];
      if (!reading) return;
      const opaque = reading.swatches.filter((swatch) => swatch.alpha > 0);
      onChange({
        listed: opaque.map((swatch) => swatch.hex.slice(0, 7)).slice(0, MOST_LISTED),
        list_name: chosen.name.slice(0, 200),
      });
    } catch (error) {
      say(error instanceof Error ? error.message : String(error), { kind: "wrong" });
    }
  };
  return (
    <PanelWord label="The list" text={recipe.list_name || "a palette of the shelf"}>
      <p className="mb-2 flex items-center gap-2 text-[13px] text-quiet">
        <span className="grow">Colors are taken from</span>
        <Button onClick={() => file.current?.click()}>A file …</Button>
        <input
          ref={file}
          type="file"
          aria-label="File with the list"
          className="hidden"
          onChange={(event) => {
            const chosen = event.target.files?.[0];
            event.target.value = "";
            if (chosen) void takeFile(chosen);
          }}
        />
      </p>
      <ShelfPalettes onChoose={({ id }) => void take(id)} />
    </PanelWord>
  );
}

function Row({ label, children }: { label: string; children: React.ReactNode }) {
  return (
    <div className="grid grid-cols-[96px_1fr] items-start gap-x-3 border-t border-line py-2 first:border-0 first:pt-0">
      <span className="pt-0.5 text-[13px] text-quiet">{label}</span>
      <div className="min-w-0 text-[13px]">{children}</div>
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
      onKeyDown={(event) => event.key !== "Escape" && event.stopPropagation()}
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
function DetailsWord({ recipe, onChange }: { recipe: Recipe; onChange: Change }) {
  const { menus } = useBench();
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

/** The recipe of the reduction; every underlined word is a control. */
export function RecipeSentence({ recipe, onChange }: { recipe: Recipe; onChange: Change }) {
  const { menus } = useBench();
  const chooser = menus.choosers.find((entry) => entry.id === recipe.chooser);
  const dither = menus.dithers.find((entry) => entry.id === recipe.dither);
  const asItIs = chooser?.needs === "palette";
  return (
    <Sentence label="Recipe of the reduction">
      {asItIs ? "Paint with" : "Reduce"}{" "}
      {!chooser?.sets_count && (
        <>
          to{" "}
          <NumberWord
            label="Number of colors"
            value={recipe.colors}
            min={2}
            max={menus.most_colors}
            unit={(count) => (count === 1 ? "color" : "colors")}
            hint="Type a number, or step with ↑ and ↓, by ten with Shift. A clear pixel takes one index of its own."
            onChange={(colors) => onChange({ colors })}
          />{" "}
        </>
      )}
      {!asItIs && "chosen by "}
      <ChoiceWord
        label="How colors are chosen"
        value={recipe.chooser}
        choices={menus.choosers}
        onChange={(id) => onChange({ chooser: id })}
      />
      {chooser?.needs === "list" && (
        <>
          {" "}
          from <ListWord recipe={recipe} onChange={onChange} />
        </>
      )}
      {chooser?.needs === "depth" && (
        <>
          {" "}
          of{" "}
          <ChoiceWord
            label="Channel depth"
            value={recipe.depth}
            choices={[...new Set([...DEPTHS, recipe.depth])].map((depth) => ({
              id: depth,
              label: depth,
              use: depth.includes("x") ? "levels of red, green, blue" : "bits of red, green, blue",
            }))}
            onChange={(depth) => onChange({ depth })}
          />
        </>
      )}
      {!chooser?.sets_count && (
        <>
          {" "}
          with{" "}
          <span className="whitespace-nowrap">
            accents protected{" "}
            <NumberWord
              label="Accent protection in percent"
              value={recipe.accent}
              min={0}
              max={100}
              unit={() => "%"}
              hint="Small saturated areas count as if they were larger, so that an eye-spot keeps its color."
              onChange={(accent) => onChange({ accent })}
            />
          </span>
        </>
      )}
      {!asItIs && (
        <>
          , keeping <KeepingWord recipe={recipe} onChange={onChange} />
        </>
      )}
      , dithered{" "}
      <ChoiceWord
        label="Dither"
        value={recipe.dither}
        choices={menus.dithers}
        onChange={(id) => onChange({ dither: id })}
      />
      {dither?.has_strength && (
        <>
          {" "}
          at{" "}
          <NumberWord
            label="Dither strength in percent"
            value={recipe.strength}
            min={0}
            max={100}
            unit={() => "%"}
            hint="How much of the difference is spread: less keeps flats calmer, more keeps glows smoother."
            onChange={(strength) => onChange({ strength })}
          />
        </>
      )}
      , the rest{" "}
      <span className="whitespace-nowrap">
        <DetailsWord recipe={recipe} onChange={onChange} />.
      </span>
    </Sentence>
  );
}
