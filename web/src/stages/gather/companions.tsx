import { useQuery } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { useDescription } from "../../api/colors";
import { ask } from "../../api/queries";
import { useMenus, useShown } from "../../bench/context";
import { DraftBar } from "../../bench/draft-bar";
import { ColorPlane, Pin, placeOn, valueAt } from "../../bench/plane";
import { useScreenParts } from "../../shell/store";
import { Button } from "../../ui/button";
import { oklchCss } from "../../ui/css-color";
import { ChoiceWord, NumberWord, Sentence } from "../../ui/sentence";
import { AddedChips } from "./chips";
import { type Derivation, useDerivation } from "./use-derivation";

const DISC = 300;
const DRAWN = "drawn";
type Triple = [number, number, number];

/** Work outward from one color: companions round the hue circle at its lightness, or colors drawn to go with the locked. */
export function CompanionsView() {
  const menus = useMenus();
  const shown = useShown();
  const { selected } = useScreenParts("selected");
  const current = shown.find((swatch) => swatch.id === selected.at(-1) && swatch.alpha > 0);
  const [own, setOwn] = useState<Triple | null>(null);
  const [scheme, setScheme] = useState("split");
  const [spread, setSpread] = useState<number | null>(null);
  const [count, setCount] = useState(5);
  const [seed, setSeed] = useState(1);
  const entry = menus.schemes.find((candidate) => candidate.id === scheme);
  const drawn = scheme === DRAWN;
  const fromSwatch = useDescription({
    space: current?.space ?? "oklch",
    coords: current?.coords ?? [0.65, 0.12, 45],
    alpha: 1,
  });
  const oklch = fromSwatch.data?.spaces.find((space) => space.id === "oklch")?.channels.map((c) => c.value);
  const base = (own ?? oklch ?? [0.65, 0.12, 45]) as Triple;
  const text = oklchCss(base);
  const isSwatch = own === null && current !== undefined;
  const angle = spread ?? entry?.spread ?? 0;
  const companions = useQuery({
    ...ask.companions(
      text,
      scheme,
      entry?.spread ? angle : null,
      entry && entry.fewest !== entry.most ? count : null,
    ),
    enabled: !drawn,
    placeholderData: (before) => before,
  });
  const round = menus.planes.find((plane) => plane.is_round);
  // The disc reaches as far as sRGB does at this lightness, so that dark companions lie apart as well.
  const disc = round && { ...round, up_ends: [0, companions.data?.reach ?? round.up_ends[1] ?? 1] };
  const choosable = entry && entry.fewest !== entry.most;
  const derivation: Derivation = drawn
    ? { kind: "drawn", scheme: "analogous", spread: null, count, seed }
    : {
        kind: "harmony",
        base: isSwatch && current ? { swatch: current.id } : { text },
        scheme: scheme as "split",
        spread: entry?.spread ? angle : null,
        count: choosable ? count : null,
        with_base: !isSwatch,
      };
  const { added, proposal, problem } = useDerivation(derivation);
  const pins = drawn ? [] : (companions.data?.companions ?? []).slice(1);
  const locked = shown.filter((swatch) => swatch.locked && swatch.alpha > 0).length;
  return (
    <div className="flex min-h-0 grow flex-col">
      <Sentence label="Recipe of the companions">
        Add {drawn ? "colors " : "the "}
        <ChoiceWord
          label="Scheme"
          value={scheme}
          choices={[...menus.schemes, DRAWN_CHOICE]}
          onChange={(id) => {
            setScheme(id);
            setSpread(null);
          }}
        />
        {drawn ? (
          <>
            {" "}
            that go with <strong>{locked === 0 ? "nothing locked" : `${locked} locked`}</strong>, seed{" "}
            <NumberWord
              label="Seed"
              value={seed}
              min={0}
              max={9999}
              unit={() => ""}
              hint="The same seed always gives the same colors."
              onChange={setSeed}
            />
          </>
        ) : (
          <>
            {" "}
            of <strong>{isSwatch ? current?.name : "a color of its own"}</strong>
          </>
        )}
        {!drawn && entry && entry.spread > 0 && (
          <>
            , opened by{" "}
            <NumberWord
              label="Spread"
              value={Math.round(angle)}
              min={0}
              max={180}
              unit={() => "°"}
              hint="Degrees on the hue circle between a color and its companions."
              onChange={setSpread}
            />
          </>
        )}
        {(drawn || choosable) && (
          <>
            , in{" "}
            <NumberWord
              label="Number of colors"
              value={count}
              min={drawn ? 1 : (entry?.fewest ?? 2)}
              max={drawn ? 32 : (entry?.most ?? 9)}
              unit={(n) => (n === 1 ? "color" : "colors")}
              hint={drawn ? "They keep apart from each other and from the locked." : "The base included."}
              onChange={setCount}
            />
          </>
        )}
        .
      </Sentence>
      <DraftBar canKeep={Boolean(proposal?.changes)} label={`Add ${added.length || ""}`.trim()}>
        {problem ? (
          <span role="alert" className="font-semibold text-ink">
            {problem}
          </span>
        ) : (
          <>
            <span>
              lightness <strong className="font-semibold text-ink">{base[0].toFixed(2)}</strong>, held
            </span>
            {own && (
              <Button onClick={() => setOwn(null)}>
                {current ? "Back to the selected swatch" : "Begin anew"}
              </Button>
            )}
            {drawn && <Button onClick={() => setSeed((seed + 1) % 10000)}>Draw others</Button>}
          </>
        )}
      </DraftBar>
      <div className="grid min-h-0 grow grid-cols-[auto_1fr] gap-8 overflow-y-auto pt-1 pl-1">
        {disc && !drawn && (
          <div>
            <div className="relative" style={{ width: DISC, height: DISC }}>
              <ColorPlane
                plane={disc}
                label="Hue and chroma of the base color"
                value={base}
                width={DISC}
                height={DISC}
                onMove={(value) => setOwn(value as Triple)}
                onCommit={(value) => setOwn(value as Triple)}
              >
                {pins.map((pin, place) => {
                  const [right, up] = placeOn(disc, pin.oklch);
                  // biome-ignore lint/suspicious/noArrayIndexKey: companions are their places in the scheme
                  return <Pin key={place} right={right} up={up} small fill={pin.hex} />;
                })}
              </ColorPlane>
              {pins.map((pin, place) => (
                <CompanionHandle
                  // biome-ignore lint/suspicious/noArrayIndexKey: companions are their places in the scheme
                  key={place}
                  at={placeOn(disc, pin.oklch)}
                  label={`Companion ${place + 1}, ${pin.hex}`}
                  onMove={(right, up) => {
                    const [, chroma = 0, hue = 0] = valueAt(disc, base, right, up);
                    const offset = (((pin.oklch[2] ?? 0) - base[2]) % 360) + 360;
                    // Companions stay tied: turning one turns the base with it, pulling one outward gives all more chroma.
                    setOwn([base[0], chroma, (hue - offset + 720) % 360]);
                  }}
                />
              ))}
            </div>
            <p className="mt-2 w-[300px] text-small text-quiet">
              Drag the ring, or any companion: they stay tied. What lies outside sRGB is hatched.
            </p>
          </div>
        )}
        <AddedChips swatches={added} label="New swatches" />
      </div>
    </div>
  );
}

const DRAWN_CHOICE = {
  id: DRAWN,
  label: "drawn by chance",
  use: "Colors drawn to go with the locked swatches; draw again for others.",
};

/** A companion that can be dragged; invisible over its pin. */
function CompanionHandle({
  at,
  label,
  onMove,
}: {
  at: [number, number];
  label: string;
  onMove: (right: number, up: number) => void;
}) {
  const held = useRef(false);
  return (
    <div
      title={label}
      className="absolute size-5 -translate-x-1/2 -translate-y-1/2 cursor-grab touch-none rounded-full"
      style={{ left: `${at[0] * 100}%`, top: `${(1 - at[1]) * 100}%` }}
      onPointerDown={(event) => {
        held.current = true;
        event.currentTarget.setPointerCapture(event.pointerId);
      }}
      onPointerMove={(event) => {
        if (!held.current) return;
        const rect = event.currentTarget.parentElement?.getBoundingClientRect();
        if (!rect) return;
        onMove((event.clientX - rect.left) / rect.width, 1 - (event.clientY - rect.top) / rect.height);
      }}
      onPointerUp={() => {
        held.current = false;
      }}
    />
  );
}
