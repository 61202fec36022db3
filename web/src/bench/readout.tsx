import { Lock, LockOpen } from "lucide-react";
import { type KeyboardEvent, type PointerEvent, useEffect, useRef, useState } from "react";
import type { Swatch } from "../api/client";
import { useScreen } from "../shell/store";
import { TextButton } from "../ui/button";
import { NameField } from "../ui/name-field";
import { Slider } from "../ui/slider";
import { useBench } from "./context";
import { oklchCss } from "./css-color";
import { useCompare } from "./header";
import { focusMark } from "./keys";

type Triple = [number, number, number];
const PLANE = { width: 270, height: 120 };

function percent(share: number) {
  const value = share * 100;
  return value > 0 && value < 0.1 ? "under 0.1 %" : `${value.toFixed(1)} %`;
}

interface PlaneProps {
  value: Triple;
  widest: number;
  hold: boolean;
  onMove: (value: Triple) => void;
  onCommit: (value: Triple) => void;
}

/** Chroma to the right, lightness upward, at the swatch's hue; what lies outside sRGB is hatched. */
function Plane({ value, widest, hold, onMove, onCommit }: PlaneProps) {
  const [lightness, chroma, hue] = value;
  const latest = useRef<Triple | null>(null);
  const box = useRef<HTMLDivElement>(null);
  const place = (event: PointerEvent): Triple => {
    const rect = box.current?.getBoundingClientRect() ?? new DOMRect();
    const right = Math.min(1, Math.max(0, (event.clientX - rect.left) / rect.width));
    const up = 1 - Math.min(1, Math.max(0, (event.clientY - rect.top) / rect.height));
    return [hold ? lightness : up, right * widest, hue];
  };
  const press = (event: KeyboardEvent) => {
    const step = event.shiftKey ? 0.05 : 0.005;
    const change = {
      ArrowLeft: [0, -step],
      ArrowRight: [0, step],
      ArrowUp: [step, 0],
      ArrowDown: [-step, 0],
    }[event.key];
    if (!change) return;
    event.preventDefault();
    event.stopPropagation();
    onCommit([
      hold ? lightness : Math.min(1, Math.max(0, lightness + (change[0] ?? 0))),
      Math.min(widest, Math.max(0, chroma + (change[1] ?? 0))),
      hue,
    ]);
  };
  const source = `/api/colors/plane?hue=${hue.toFixed(1)}&width=${PLANE.width}&height=${PLANE.height}`;
  return (
    <div
      ref={box}
      role="slider"
      tabIndex={0}
      aria-label="Chroma and lightness"
      aria-valuenow={Math.round(lightness * 100)}
      aria-valuemin={0}
      aria-valuemax={100}
      aria-valuetext={`Lightness ${lightness.toFixed(2)}, chroma ${chroma.toFixed(2)}`}
      className="hatched relative cursor-crosshair touch-none overflow-hidden"
      style={{ height: PLANE.height }}
      onKeyDown={press}
      onPointerDown={(event) => {
        event.currentTarget.setPointerCapture(event.pointerId);
        latest.current = place(event);
        onMove(latest.current);
      }}
      onPointerMove={(event) => {
        if (!latest.current) return;
        latest.current = place(event);
        onMove(latest.current);
      }}
      onPointerUp={() => {
        if (latest.current) onCommit(latest.current);
        latest.current = null;
      }}
    >
      <img src={source} alt="" draggable={false} className="pointer-events-none size-full" />
      <span
        aria-hidden="true"
        className="pointer-events-none absolute size-3.5 -translate-x-1/2 -translate-y-1/2 rounded-full border-2 border-white shadow-[0_0_0_1.5px_#000,inset_0_0_0_1px_#000]"
        style={{ left: `${(chroma / widest) * 100}%`, top: `${(1 - lightness) * 100}%` }}
      />
    </div>
  );
}

function tracks([lightness, chroma, hue]: Triple, widest: number) {
  const stops = (count: number, at: (share: number) => Triple) =>
    Array.from({ length: count }, (_, step) => oklchCss(at(step / (count - 1)))).join(", ");
  return [
    `linear-gradient(90deg in oklab, ${stops(7, (t) => [t, chroma, hue])})`,
    `linear-gradient(90deg in oklab, ${stops(5, (t) => [lightness, t * widest, hue])})`,
    `linear-gradient(90deg in oklab, ${stops(13, (t) => [lightness, Math.max(chroma, 0.06), t * 360])})`,
  ];
}

function Editor({ swatch }: { swatch: Swatch }) {
  const { operate, menus, shown } = useBench();
  const { dragging, drag, setInk, setGround, hover, select } = useScreen();
  const [live, setLive] = useState<Triple | null>(null);
  const [hold, setHold] = useState(true);
  const [hex, setHex] = useState(swatch.hex);
  const [began, setBegan] = useState(swatch.hex);
  const value = live ?? (swatch.oklch as Triple);
  const compare = useCompare(began.slice(0, 7), swatch.hex.slice(0, 7));
  const nearest = swatch.nearest === null || swatch.nearest === undefined ? null : shown[swatch.nearest];

  useEffect(() => {
    setHex(swatch.hex);
    setLive(null);
    drag(null);
  }, [swatch.hex, drag]);

  const move = (next: Triple) => {
    setLive(next);
    drag({ id: swatch.id, css: oklchCss(next) });
  };
  const commit = async (next: Triple) => {
    move(next);
    await operate({ kind: "recolor_swatch", id: swatch.id, space: "oklch", coords: [...next] });
    setLive(null);
    drag(null);
  };
  const keepHex = async () => {
    if (hex.trim() === swatch.hex) return;
    const changed = await operate({ kind: "recolor_swatch", id: swatch.id, text: hex });
    if (!changed) setHex(swatch.hex);
  };
  const [lightnessTrack, chromaTrack, hueTrack] = tracks(value, menus.widest_chroma);
  const shownCss = dragging?.id === swatch.id ? dragging.css : swatch.hex;
  const clear = swatch.alpha === 0;
  const rows: [string, string[]][] = [
    ["RGB", swatch.rgb.map(String)],
    ["OKLCh", [swatch.oklch[0].toFixed(3), swatch.oklch[1].toFixed(3), swatch.oklch[2].toFixed(1)]],
    [
      "HSV",
      [
        swatch.hsv[0].toFixed(0),
        `${(swatch.hsv[1] * 100).toFixed(0)} %`,
        `${(swatch.hsv[2] * 100).toFixed(0)} %`,
      ],
    ],
    ["CIELAB", swatch.lab.map((number) => number.toFixed(1))],
  ];
  const sliders: [string, number, number, number, number, string | undefined][] = [
    ["Lightness", value[0], 1, 0.001, 3, lightnessTrack],
    ["Chroma", value[1], menus.widest_chroma, 0.001, 3, chromaTrack],
    ["Hue", value[2], 360, 0.1, 1, hueTrack],
  ];
  return (
    <>
      <div className={`flex h-16 overflow-hidden ${clear ? "checkered" : ""}`}>
        <Half css={clear ? null : began} lightness={swatch.oklch[0]}>
          was
        </Half>
        <Half css={clear ? null : shownCss} lightness={value[0]}>
          is{began !== swatch.hex && compare.data ? ` ΔE ${compare.data.delta_eok.toFixed(1)}` : ""}
        </Half>
      </div>
      {clear ? (
        <p className="mt-3 text-[13px] text-quiet">
          This swatch stands for transparent pixels. Pixels whose alpha is below half get its index.
        </p>
      ) : (
        <>
          <div className="mt-2.5">
            <Plane
              value={value}
              widest={menus.widest_chroma}
              hold={hold}
              onMove={move}
              onCommit={(v) => void commit(v)}
            />
          </div>
          <div className="mt-2 grid grid-cols-[66px_1fr_42px] items-center gap-x-2 text-[13px]">
            {sliders.map(([label, amount, max, step, digits, track], place) => (
              <div key={label} className="contents">
                <span>{label}</span>
                <Slider
                  label={label}
                  value={amount}
                  min={0}
                  max={max}
                  step={step}
                  track={track}
                  onChange={(next) => move(value.map((v, i) => (i === place ? next : v)) as Triple)}
                  onCommit={(next) => void commit(value.map((v, i) => (i === place ? next : v)) as Triple)}
                />
                <span className="text-right">{amount.toFixed(digits)}</span>
              </div>
            ))}
          </div>
          <label className="mt-1 flex items-center gap-2 text-[13px]">
            <input
              type="checkbox"
              className="accent-ink"
              checked={hold}
              onChange={(e) => setHold(e.target.checked)}
            />
            Hold lightness in the plane
          </label>
        </>
      )}
      <dl className="mt-2 grid grid-cols-[58px_repeat(3,1fr)] items-baseline gap-y-0.5 text-[13px]">
        <dt className="text-quiet">Hex</dt>
        <dd className="col-span-3 m-0">
          <input
            aria-label="Hex or any color notation"
            title="Type any notation: #e85421, rgb(232 84 33), oklch(0.65 0.19 39), tomato"
            className="w-full border-b border-line bg-transparent font-semibold outline-offset-1 focus:border-ink"
            value={hex}
            spellCheck={false}
            onChange={(event) => setHex(event.target.value)}
            onFocus={(event) => event.target.select()}
            onBlur={() => void keepHex()}
            onKeyDown={(event) => {
              if (event.key === "Enter") void keepHex();
              if (event.key === "Escape") setHex(swatch.hex);
              event.stopPropagation();
            }}
          />
        </dd>
        {rows.map(([name, numbers]) => (
          <div key={name} className="contents">
            <dt className="text-quiet">{name}</dt>
            {numbers.map((number, place) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: three fixed columns
              <dd key={place} className="m-0 font-semibold">
                {number}
              </dd>
            ))}
          </div>
        ))}
      </dl>
      <div className="mt-2 border-t border-line pt-2 text-[13px] text-quiet">
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
        <div className="-ml-1.5 flex">
          <TextButton onClick={() => setInk(swatch.hex.slice(0, 7))}>Use as ink</TextButton>
          <TextButton onClick={() => setGround(swatch.hex.slice(0, 7))}>as ground</TextButton>
          {began !== swatch.hex && (
            <TextButton
              className="ml-auto"
              onClick={async () => {
                await operate({ kind: "recolor_swatch", id: swatch.id, text: began });
                setBegan(began);
              }}
            >
              Back to was
            </TextButton>
          )}
        </div>
      </div>
    </>
  );
}

function Half({
  css,
  lightness,
  children,
}: {
  css: string | null;
  lightness: number;
  children: React.ReactNode;
}) {
  return (
    <div
      className="flex-1 p-1.5 text-[12px] font-semibold"
      style={{ background: css ?? undefined, color: css === null || lightness > 0.62 ? "#000" : "#fff" }}
    >
      {children}
    </div>
  );
}

/** All about the selected swatch, always open. */
export function Readout() {
  const { shown, operate } = useBench();
  const { selected, anchor, select } = useScreen();
  const currentId = anchor && selected.includes(anchor) ? anchor : selected.at(-1);
  const place = shown.findIndex((swatch) => swatch.id === currentId);
  const swatch = shown[place];
  const frame = "w-[306px] shrink-0 overflow-y-auto border-l border-line bg-panel px-[18px] py-3";
  if (!swatch) {
    return (
      <aside aria-label="Readout" className={frame}>
        <h2 className="text-[15px] font-semibold">No swatch selected</h2>
        <p className="mt-2 text-[13px] text-quiet">
          Click a swatch in the strip to see and change its color here.
        </p>
      </aside>
    );
  }
  const next = () => {
    const following = shown[(place + 1) % shown.length];
    if (following) {
      select([following.id]);
      focusMark("swatch-name");
    }
  };
  const details = [`${place}`];
  if (swatch.locked) details.push("locked");
  if (swatch.coverage !== null) details.push(percent(swatch.coverage));
  return (
    <aside aria-label="Readout" className={frame}>
      <div className="mb-2 flex items-center gap-2">
        <h2 className="flex min-w-0 grow">
          <NameField
            key={swatch.id}
            mark="swatch-name"
            label={`Name of swatch ${place}`}
            value={swatch.name}
            onRename={(name) => void operate({ kind: "rename_swatch", id: swatch.id, name })}
            onNext={next}
            className="w-full text-[15px] font-semibold"
          />
        </h2>
        <span className="shrink-0 text-[13px] text-quiet">{details.join(" · ")}</span>
        <button
          type="button"
          aria-pressed={swatch.locked}
          aria-label={swatch.locked ? "Unlock" : "Lock"}
          title={
            swatch.locked
              ? "Locked: stays through the next reduction. Click to unlock (L)"
              : "Lock, to keep this color in the next reduction (L)"
          }
          className="grid size-6 shrink-0 place-items-center rounded hover:bg-raised"
          onClick={() => void operate({ kind: "lock_swatches", ids: [swatch.id], locked: !swatch.locked })}
        >
          {swatch.locked ? <Lock size={15} strokeWidth={2.4} /> : <LockOpen size={15} />}
        </button>
      </div>
      <Editor key={swatch.id} swatch={swatch} />
      <div className="mt-1 border-t border-line pt-1">
        <div className="-ml-1.5 flex items-center">
          <TextButton onClick={() => void operate({ kind: "duplicate_swatches", ids: selected })}>
            Duplicate
          </TextButton>
          <TextButton onClick={() => void operate({ kind: "delete_swatches", ids: selected })}>
            Delete
          </TextButton>
          {selected.length > 1 && (
            <span className="ml-auto text-[13px] text-quiet">all {selected.length} selected</span>
          )}
        </div>
      </div>
    </aside>
  );
}
