import { useLayoutEffect, useMemo, useState } from "react";
import type { Swatch } from "../../api/types";
import { useMenus, useShown } from "../../bench/context";
import { NumberWord, Sentence } from "../../ui/sentence";
import { type Dot, dotsIn } from "./map-drawing";
import { NEUTRALS, Panel } from "./map-panel";
import { Marquee } from "./marks";
import { Toolbar } from "./toolbar";
import { useCells } from "./use-cells";

const NEUTRAL_CHROMA = 0.02;
const MOST_NAMED = 2048;
const EDGE = 26;

/** Places 0..1 across and down: of the disc by hue and chroma, and of the field by hue and lightness. */
function onDisc(swatch: Swatch, widest: number): [number, number] {
  const [, chroma, hue] = swatch.oklch;
  const angle = (hue / 180) * Math.PI;
  const radius = Math.min(1, chroma / widest) / 2;
  return [0.5 + radius * Math.cos(angle), 0.5 - radius * Math.sin(angle)];
}

function onField(swatch: Swatch): [number, number] {
  const [lightness, chroma, hue] = swatch.oklch;
  const across = chroma < NEUTRAL_CHROMA ? NEUTRALS / 2 : NEUTRALS + ((1 - NEUTRALS) * hue) / 360;
  return [across, 1 - lightness];
}

/** Where every swatch lies in OKLab: hue and chroma on a disc, hue and lightness beside it; near twins are linked. */
export function MapView() {
  const shown = useShown();
  const menus = useMenus();
  const [tenths, setTenths] = useState(40);
  const [room, setRoom] = useState({ width: 900, height: 480 });
  const side = Math.max(160, Math.min(room.height - 2 * EDGE, room.width * 0.46));
  const wide = Math.max(160, room.width - side - 2 * EDGE) - 40;
  const { opaque, widest, sizes, disc, field } = useMemo(() => {
    const opaque = shown.map((swatch, index) => ({ swatch, index })).filter(({ swatch }) => swatch.alpha > 0);
    const widest = opaque.reduce((most, { swatch }) => Math.max(most, swatch.oklch[1]), 0.08) * 1.08;
    const radius = (swatch: Swatch) =>
      opaque.length > 300 ? 5 : 7 + Math.min(9, Math.sqrt(swatch.coverage ?? 0.01) * 22);
    const dots = (width: number, height: number, at: (swatch: Swatch) => [number, number]): Dot[] =>
      opaque.map(({ swatch, index }) => {
        const [x, y] = at(swatch);
        return { swatch, index, x: x * width, y: y * height, r: radius(swatch) };
      });
    return {
      opaque,
      widest,
      sizes: { disc: { width: side, height: side }, field: { width: wide, height: side } },
      disc: dots(side, side, (swatch) => onDisc(swatch, widest)),
      field: dots(wide, side, onField),
    };
  }, [shown, side, wide]);
  const { box, marquee, handlers } = useCells({
    shown,
    within: (area) => [
      ...new Set(
        Object.entries({ disc, field }).flatMap(([name, dots]) => {
          const panel = box.current?.querySelector(`[data-panel=${name}]`)?.getBoundingClientRect();
          if (!panel) return [];
          const here = { ...area, left: area.left - panel.left, top: area.top - panel.top };
          return dotsIn(dots, here).map(({ swatch }) => swatch.id);
        }),
      ),
    ],
  });
  useLayoutEffect(() => {
    const area = box.current;
    if (!area) return;
    const observer = new ResizeObserver(() =>
      setRoom({ width: area.clientWidth, height: area.clientHeight }),
    );
    observer.observe(area);
    return () => observer.disconnect();
  }, [box]);
  const linked = opaque.filter(({ swatch }) => (swatch.nearest_delta ?? Infinity) <= tenths / 10).length;
  return (
    <>
      <Sentence label="What this view does">
        See how the colors lie, with near twins linked within{" "}
        <NumberWord
          label="Distance of linked twins"
          value={tenths}
          min={0}
          max={200}
          scale={10}
          unit={() => "ΔE"}
          hint="Swatches nearer than this to their nearest are joined by a line. Larger dots paint more."
          onChange={setTenths}
        />
        .
      </Sentence>
      <Toolbar>
        <span className="text-quiet">
          linked <strong className="font-semibold text-ink">{linked}</strong>
        </span>
      </Toolbar>
      <div
        ref={box}
        role="application"
        aria-label="Map of the palette. Click a dot to select it, draw a rectangle to select several."
        className="relative flex min-h-0 grow cursor-crosshair gap-8 overflow-hidden pt-1 pl-3 select-none"
        {...handlers}
      >
        <Panel
          label={`Hue round, chroma outward to ${Math.min(widest, menus.widest_chroma).toFixed(2)}`}
          size={sizes.disc}
          dots={disc}
          within={tenths / 10}
          round
          axes={["", ""]}
        />
        <Panel
          label="Lightness upward, hue to the right; neutrals at the left"
          size={sizes.field}
          dots={field}
          within={tenths / 10}
          axes={["neutral", "hue 360°"]}
        />
        <Marquee box={marquee} />
      </div>
      <p className="sr-only">
        {opaque
          .slice(0, MOST_NAMED)
          .map(({ swatch }) => swatch.name)
          .join(", ")}
      </p>
    </>
  );
}
