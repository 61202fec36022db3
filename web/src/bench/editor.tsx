import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { type ColorIn, useCompare, useDescription, useLiveDescription, useRested } from "../api/colors";
import { ask } from "../api/queries";
import type { Description, Swatch } from "../api/types";
import { useLens } from "../lens/lens";
import { useScreen, useScreenParts } from "../shell/store";
import { TextButton } from "../ui/button";
import { textOn } from "../ui/css-color";
import { ActionPanel } from "../ui/sentence";
import { useTyped } from "../ui/use-typed";
import { ChannelRow, NumberField, written } from "./channel-row";
import { useCommands, useDrafted, useMenus, useShown } from "./context";
import { ColorPlane } from "./plane";

const PLANE = { width: 270, height: 80 };

/** One half of the comparison; the color of before is also the way back to it. */
function Half({
  css,
  onBack,
  children,
}: {
  css: string | null;
  onBack?: (() => void) | undefined;
  children: React.ReactNode;
}) {
  const lens = useLens();
  const seen = css === null ? null : lens.css(css);
  const look = {
    className: "flex-1 p-1.5 text-left text-caption leading-tight font-semibold flex items-start",
    style: { background: seen ?? undefined, color: seen === null ? "#000" : textOn(seen) },
  };
  return onBack ? (
    <button type="button" title="Back to what it was" aria-label="was: back to it" {...look} onClick={onBack}>
      {children} <span aria-hidden="true">&nbsp;↶</span>
    </button>
  ) : (
    <div {...look}>{children}</div>
  );
}

/** The color in any notation, to paste elsewhere. */
function CopyPanel({ description }: { description: Description }) {
  const say = useScreen((screen) => screen.say);
  return (
    <ActionPanel label="Copy …">
      {(close) => (
        <ul className="m-0 grid list-none gap-0.5 p-0" aria-label="Notations">
          {description.notations.map((notation) => (
            <li key={notation.id}>
              <button
                type="button"
                className="w-full rounded px-1.5 py-1 text-left text-small hover:bg-ground"
                onClick={async () => {
                  try {
                    await navigator.clipboard.writeText(notation.text);
                    say(`${notation.text} is in the clipboard.`);
                    close();
                  } catch {
                    say(
                      "The browser does not let this page write to the clipboard. Select the text and copy it.",
                      {
                        kind: "wrong",
                      },
                    );
                  }
                }}
              >
                {notation.text}
              </button>
            </li>
          ))}
        </ul>
      )}
    </ActionPanel>
  );
}

/** The color of one swatch: planes, sliders, numbers, any notation; what it was and what it is. */
export function Editor({ swatch }: { swatch: Swatch }) {
  const queries = useQueryClient();
  const menus = useMenus();
  const shown = useShown();
  const draft = useDrafted();
  const { operate } = useCommands();
  const {
    dragging,
    drag,
    setInk,
    setGround,
    hover,
    select,
    plane: planeId,
    setPlane,
    space: spaceId,
    setSpace,
  } = useScreenParts(
    "dragging",
    "drag",
    "setInk",
    "setGround",
    "hover",
    "select",
    "plane",
    "setPlane",
    "space",
    "setSpace",
  );
  const [live, setLive] = useState<ColorIn | null>(null);
  const [hold, setHold] = useState(false);
  const { text: hex, type: typeHex, drop: dropHex } = useTyped(swatch.hex);
  const [began] = useState(swatch.hex);
  const rested = useRested(swatch, `${swatch.id} ${swatch.hex}`, draft?.kind === "reduce");
  const base = useDescription({ space: rested.space, coords: rested.coords, alpha: rested.alpha }).data;
  const moved = useLiveDescription(live);
  const description = moved?.description ?? base;
  const compare = useCompare(began.slice(0, 7), rested.hex.slice(0, 7));
  const nearest = swatch.nearest === null || swatch.nearest === undefined ? null : shown[swatch.nearest];
  const planes = menus.planes.filter((plane) => !plane.is_round);
  const plane = planes.find((entry) => entry.id === planeId) ?? planes[0];

  useEffect(() => {
    setLive(null);
    drag(null);
  }, [drag]);
  useEffect(() => {
    if (moved) drag({ id: swatch.id, css: moved.description.hex });
  }, [moved, drag, swatch.id]);

  /** The coordinates to show in a space: those under the pointer, else as the server worked them out. */
  const coordsIn = (space: string): readonly number[] =>
    live?.space === space
      ? live.coords
      : (description?.spaces.find((entry) => entry.id === space)?.channels.map((channel) => channel.value) ??
        []);
  /** Whether a change of this channel is meant to change the lightness. */
  const holdOf = (space: string, place: number) =>
    hold && !(space === "oklch" && place === 0) ? swatch.oklch[0] : null;
  const move = (space: string, coords: readonly number[], held: number | null) =>
    setLive({ space, coords, alpha: swatch.alpha, hold: held });
  const commit = async (space: string, coords: readonly number[], held: number | null) => {
    const color: ColorIn = { space, coords, alpha: swatch.alpha, hold: held };
    setLive(color);
    let sent: { space: string; coords: readonly number[] } = color;
    if (held !== null && space !== "oklch") {
      const found =
        moved?.asked.coords === coords ? moved.description : await queries.fetchQuery(ask.description(color));
      const oklch = found.spaces.find((entry) => entry.id === "oklch");
      sent = oklch ? { space: "oklch", coords: oklch.channels.map((channel) => channel.value) } : color;
    } else if (held !== null) sent = { space, coords: [held, coords[1] ?? 0, coords[2] ?? 0] };
    await operate({ kind: "recolor_swatch", id: swatch.id, space: sent.space, coords: [...sent.coords] });
    setLive(null);
    drag(null);
  };
  /** What is being kept, or was put back: leaving the field does not keep it once more. */
  const settledHex = useRef<string | null>(null);
  const keepHex = async () => {
    if (hex.trim() === swatch.hex || settledHex.current === hex) return;
    settledHex.current = hex;
    const changed = await operate({ kind: "recolor_swatch", id: swatch.id, text: hex });
    if (!changed) dropHex();
    settledHex.current = null;
  };
  const setAlpha = (alpha: number) =>
    void operate({
      kind: "recolor_swatch",
      id: swatch.id,
      space: swatch.space,
      coords: [...swatch.coords],
      alpha: Math.min(1, Math.max(0, alpha)),
    });
  const shownCss = dragging?.id === swatch.id ? dragging.css : swatch.hex;
  const clear = swatch.alpha === 0;
  const space = description?.spaces.find((entry) => entry.id === spaceId) ?? description?.spaces[0];
  return (
    <>
      <div className={`flex h-8 overflow-hidden pointer-coarse:h-11 ${swatch.alpha < 1 ? "checkered" : ""}`}>
        <Half
          css={clear ? null : began}
          onBack={
            began === swatch.hex
              ? undefined
              : () => void operate({ kind: "recolor_swatch", id: swatch.id, text: began })
          }
        >
          was
        </Half>
        <Half css={clear ? null : shownCss}>
          is{began !== swatch.hex && compare.data ? ` ΔE ${compare.data.delta_eok.toFixed(1)}` : ""}
        </Half>
      </div>
      {clear ? (
        <p className="mt-3 text-small text-quiet">
          This swatch stands for transparent pixels. Pixels whose alpha is below half get its index.
        </p>
      ) : (
        plane && (
          <>
            <div className="mt-2">
              <ColorPlane
                plane={plane}
                label={plane.label}
                value={coordsIn(plane.space)}
                width={PLANE.width}
                height={PLANE.height}
                holdUp={hold && plane.space === "oklch" && plane.up === 0}
                onMove={(next) => move(plane.space, next, holdOf(plane.space, plane.across))}
                onCommit={(next) => void commit(plane.space, next, holdOf(plane.space, plane.across))}
              />
            </div>
            <div className="mt-1 flex items-center gap-2 text-small">
              <span className="-ml-1.5 min-w-0 grow">
                <ActionPanel label={`${plane.label} ▾`}>
                  {(close) => (
                    <fieldset className="m-0 grid gap-0.5 border-0 p-0">
                      <legend className="mb-1 text-small text-quiet">Plane</legend>
                      {planes.map((entry) => (
                        <label key={entry.id} className="flex cursor-pointer items-center gap-2 text-small">
                          <input
                            type="radio"
                            name="plane"
                            className="accent-ink"
                            checked={entry.id === plane.id}
                            onChange={() => {
                              setPlane(entry.id);
                              close();
                            }}
                          />
                          {entry.label}
                        </label>
                      ))}
                    </fieldset>
                  )}
                </ActionPanel>
              </span>
              <label
                className="flex items-center gap-1.5 whitespace-nowrap"
                title="Hue and chroma move, the OKLCh lightness stays as it is"
              >
                <input
                  type="checkbox"
                  className="accent-ink"
                  checked={hold}
                  onChange={(event) => setHold(event.target.checked)}
                />
                Hold lightness
              </label>
            </div>
            {space && (
              <div className="mt-1 grid grid-cols-[66px_1fr_44px] items-center gap-x-2 text-small">
                {space.channels.map((channel, place) => (
                  <ChannelRow
                    key={channel.name}
                    space={space}
                    place={place}
                    color={coordsIn(space.id)}
                    onMove={(coords) => move(space.id, coords, holdOf(space.id, place))}
                    onCommit={(coords) => void commit(space.id, coords, holdOf(space.id, place))}
                  />
                ))}
              </div>
            )}
          </>
        )
      )}
      <div className="mt-1 flex items-baseline gap-2 text-small">
        <span className="w-[50px] shrink-0 text-quiet">Hex</span>
        <input
          aria-label="Hex or any color notation"
          title="Type any notation: #e85421, rgb(232 84 33), oklch(0.65 0.19 39), K25, tomato"
          className="min-w-0 grow border-b border-line bg-transparent font-semibold outline-offset-1 focus:border-ink"
          value={hex}
          spellCheck={false}
          onChange={(event) => {
            settledHex.current = null;
            typeHex(event.target.value);
          }}
          onFocus={(event) => event.target.select()}
          onBlur={() => void keepHex()}
          onKeyDown={(event) => {
            if (event.key === "Enter") void keepHex();
            if (event.key === "Escape") {
              settledHex.current = hex;
              dropHex();
              event.currentTarget.blur();
            }
            event.stopPropagation();
          }}
        />
        <span className="text-quiet">alpha</span>
        <span className="w-9 shrink-0 pointer-coarse:w-16">
          <NumberField
            label="Alpha in percent"
            text={(swatch.alpha * 100).toFixed(0)}
            onKeep={(typed) => setAlpha(typed / 100)}
            onStep={(steps) => setAlpha(swatch.alpha + steps / 100)}
          />
        </span>
        <span className="-ml-1.5 text-quiet">%</span>
      </div>
      {description && (
        <div role="radiogroup" aria-label="Space of the sliders" className="mt-1 grid gap-y-0 text-small">
          {description.spaces.map((entry, row) => {
            const coords = coordsIn(entry.id);
            const active = entry.id === space?.id;
            return (
              // biome-ignore lint/a11y/useSemanticElements: a row of figures that is also a choice
              <button
                key={entry.id}
                type="button"
                role="radio"
                aria-checked={active}
                tabIndex={active ? 0 : -1}
                onKeyDown={(event) => {
                  const step = { ArrowUp: -1, ArrowDown: 1 }[event.key];
                  if (!step) return;
                  event.preventDefault();
                  event.stopPropagation();
                  const count = description.spaces.length;
                  const to = (row + step + count) % count;
                  setSpace(description.spaces[to]?.id ?? "oklch");
                  (event.currentTarget.parentElement?.children[to] as HTMLElement | undefined)?.focus();
                }}
                aria-label={`${entry.label} sliders`}
                title={
                  entry.id === "cmyk"
                    ? "Ink shares by the plain formula, without a profile"
                    : `Sliders in ${entry.label}`
                }
                className={`grid grid-cols-[56px_repeat(4,1fr)] rounded-xs text-left hover:bg-raised ${active ? "font-semibold" : ""}`}
                onClick={() => setSpace(entry.id)}
              >
                <span className={active ? "underline underline-offset-2" : "text-quiet"}>
                  {SHORT[entry.id] ?? entry.label}
                </span>
                {entry.channels.map((channel, place) => (
                  <span key={channel.name}>{written(channel, coords[place] ?? channel.value)}</span>
                ))}
              </button>
            );
          })}
        </div>
      )}
      <div className="mt-1 border-t border-line pt-1 text-small text-quiet">
        {!swatch.in_srgb && <p>Outside sRGB; shown with less chroma.</p>}
        {nearest && (
          <p>
            Nearest:{" "}
            <button
              type="button"
              className="font-semibold text-ink hover:underline"
              onClick={() => select([nearest.id])}
              onPointerEnter={() => hover(nearest.id)}
              onPointerLeave={() => hover(null)}
            >
              {nearest.name}
            </button>
            , ΔE {swatch.nearest_delta?.toFixed(1)}
          </p>
        )}
        <div className="-ml-1.5 flex flex-wrap">
          <TextButton onClick={() => setInk(swatch.hex.slice(0, 7))}>Use as ink</TextButton>
          <TextButton onClick={() => setGround(swatch.hex.slice(0, 7))}>as ground</TextButton>
          {description && <CopyPanel description={description} />}
        </div>
      </div>
    </>
  );
}

const SHORT: Record<string, string> = {
  srgb: "RGB",
  hsv: "HSV",
  hsl: "HSL",
  oklch: "OKLCh",
  "lab-d65": "CIELAB",
  cmyk: "CMYK",
};
