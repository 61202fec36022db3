import { useEffect, useMemo, useRef, useState } from "react";
import type { Import, Reading } from "../api/types";
import { drawWhole } from "../picture/draw";
import { isDrawing } from "./store";

/** A swatch that is pointed at, in the finds or in what they were found in. */
export type Pointed = string | null;

interface SourceProps {
  file: File;
  found: Import;
  reading: Reading;
  left: ReadonlySet<string>;
  pointed: Pointed;
  onPoint: (id: Pointed) => void;
}

/** What was looked into, with the place that each find stands at. */
export function Source(props: SourceProps) {
  const { file, found } = props;
  if (found.picture || isDrawing(file)) return <PictureSource {...props} />;
  if (found.text) return <TextSource {...props} />;
  return (
    <p className="text-small text-quiet">
      There is nothing to look at in {file.name} beside its swatches: it is no picture and no text.
    </p>
  );
}

const MOST_SIDE = 1200;
const NEAR = 6;

/** Make what is not of one color fainter. */
function dim(image: ImageData, hex: string) {
  const [red, green, blue] = [1, 3, 5].map((at) => Number.parseInt(hex.slice(at, at + 2), 16)) as [
    number,
    number,
    number,
  ];
  const { data } = image;
  for (let at = 0; at < data.length; at += 4) {
    const far = Math.max(
      Math.abs((data[at] as number) - red),
      Math.abs((data[at + 1] as number) - green),
      Math.abs((data[at + 2] as number) - blue),
    );
    if (far > NEAR) data[at + 3] = (data[at + 3] as number) * 0.15;
  }
}

/** What an image element can draw: a drawing is drawn only where its kind is said, and unpacked. */
async function drawable(file: File): Promise<Blob> {
  if (!isDrawing(file)) return file;
  const zipped = /\.svgz$/i.test(file.name);
  const plain = zipped
    ? await new Response(file.stream().pipeThrough(new DecompressionStream("gzip"))).blob()
    : file;
  return new Blob([plain], { type: "image/svg+xml" });
}

interface Shown {
  image: HTMLImageElement;
  width: number;
  height: number;
}

function useBitmap(file: File) {
  const [shown, setShown] = useState<Shown | "failed" | null>(null);
  useEffect(() => {
    let address = "";
    let closed = false;
    const image = new Image();
    image.onload = () => {
      // A drawing without a size of its own gets one.
      const [wide, high] = [image.naturalWidth || 800, image.naturalHeight || 600];
      setShown({ image, width: wide, height: high });
    };
    image.onerror = () => setShown("failed");
    drawable(file).then(
      (data) => {
        if (closed) return;
        address = URL.createObjectURL(data);
        image.src = address;
      },
      () => setShown("failed"),
    );
    return () => {
      closed = true;
      URL.revokeObjectURL(address);
    };
  }, [file]);
  return shown;
}

/** The picture or drawing itself; what a swatch was read from is framed, or all else is dimmed. */
function PictureSource({ file, reading, pointed, onPoint, left }: SourceProps) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const bitmap = useBitmap(file);
  const shown = bitmap === "failed" ? null : bitmap;
  const scale = shown ? Math.min(1, MOST_SIDE / Math.max(shown.width, shown.height)) : 1;
  const swatch = reading.swatches.find((entry) => entry.id === pointed);
  const areas = reading.areas;
  const hex = areas.length === 0 && swatch ? swatch.hex : null;
  useEffect(() => {
    const pen = canvas.current?.getContext("2d", { willReadFrequently: true });
    if (!shown || !pen || !canvas.current) return;
    const { width, height } = canvas.current;
    pen.clearRect(0, 0, width, height);
    drawWhole(pen, shown.image, scale);
    if (hex) {
      const image = pen.getImageData(0, 0, width, height);
      dim(image, hex);
      pen.putImageData(image, 0, 0);
    }
  }, [shown, hex, scale]);
  if (!shown)
    return (
      <p className="text-small text-quiet">
        {bitmap ? `${file.name} cannot be shown by this browser.` : `Opening ${file.name} …`}
      </p>
    );
  const [width, height] = [
    Math.max(1, Math.round(shown.width * scale)),
    Math.max(1, Math.round(shown.height * scale)),
  ];
  return (
    <div
      className="checkered relative max-h-full max-w-full"
      style={{ aspectRatio: `${width} / ${height}`, width }}
    >
      <canvas
        ref={canvas}
        width={width}
        height={height}
        role="img"
        aria-label={`${file.name}${areas.length ? ", with the squares that were found" : ""}`}
        className="block size-full"
        style={scale === 1 && width < 400 ? { imageRendering: "pixelated" } : undefined}
      />
      {areas.length > 0 && (
        <svg
          aria-hidden="true"
          className="absolute inset-0 size-full overflow-visible"
          viewBox={`0 0 ${shown.width} ${shown.height}`}
          preserveAspectRatio="none"
        >
          {areas.map(([x, y, wide, high], place) => {
            const entry = reading.swatches[place];
            if (!entry) return null;
            const is = entry.id === pointed;
            return (
              <g key={entry.id} onPointerEnter={() => onPoint(entry.id)} onPointerLeave={() => onPoint(null)}>
                {[
                  ["var(--ground)", is ? 5 : 3],
                  ["var(--ink)", is ? 3 : 1],
                ].map(([stroke, thick]) => (
                  <rect
                    key={stroke}
                    x={x}
                    y={y}
                    width={wide}
                    height={high}
                    fill="transparent"
                    stroke={stroke as string}
                    strokeWidth={thick}
                    strokeDasharray={left.has(entry.id) ? "3 3" : undefined}
                    vectorEffect="non-scaling-stroke"
                  />
                ))}
              </g>
            );
          })}
        </svg>
      )}
    </div>
  );
}

interface Piece {
  text: string;
  id: string | null;
}

/** A text cut at the marks, in order. */
export function pieces(text: string, marks: readonly (readonly number[])[], ids: readonly string[]): Piece[] {
  const made: Piece[] = [];
  let at = 0;
  marks.forEach(([begin = 0, end = 0], place) => {
    if (begin < at || end <= begin || begin >= text.length) return;
    if (begin > at) made.push({ text: text.slice(at, begin), id: null });
    made.push({ text: text.slice(begin, end), id: ids[place] ?? null });
    at = Math.min(end, text.length);
  });
  if (at < text.length) made.push({ text: text.slice(at), id: null });
  return made;
}

const MOST_LETTERS = 60_000;

/** The text itself, with what was found in it. */
function TextSource({ file, found, reading, left, pointed, onPoint }: SourceProps) {
  const box = useRef<HTMLElement>(null);
  const text = found.text.slice(0, MOST_LETTERS);
  const cut = useMemo(
    () =>
      pieces(
        text,
        reading.marks,
        reading.swatches.map((swatch) => swatch.id),
      ),
    [text, reading],
  );
  const colors = useMemo(() => new Map(reading.swatches.map((swatch) => [swatch.id, swatch.hex])), [reading]);
  useEffect(() => {
    if (pointed === null) return;
    const mark = box.current?.querySelector<HTMLElement>(`[data-find="${CSS.escape(pointed)}"]`);
    if (mark && box.current && !mark.matches(":hover")) {
      const { offsetTop } = mark;
      const { scrollTop, clientHeight } = box.current;
      if (offsetTop < scrollTop || offsetTop > scrollTop + clientHeight - 24)
        box.current.scrollTop = Math.max(0, offsetTop - clientHeight / 2);
    }
  }, [pointed]);
  return (
    <section
      ref={box}
      // biome-ignore lint/a11y/noNoninteractiveTabindex: a long text must be scrolled by keyboard as well
      tabIndex={0}
      aria-label={`The text of ${file.name}${reading.marks.length ? ", with what was found in it" : ""}`}
      className="relative m-0 max-h-full w-full overflow-auto border border-line bg-panel px-3 py-2 font-mono text-small whitespace-pre-wrap"
    >
      {cut.map((piece, place) =>
        piece.id === null ? (
          piece.text
        ) : (
          <mark
            // biome-ignore lint/suspicious/noArrayIndexKey: the order of the text is the identity here
            key={place}
            data-find={piece.id}
            onPointerEnter={() => onPoint(piece.id)}
            onPointerLeave={() => onPoint(null)}
            className={`border-b-4 bg-transparent ${piece.id === pointed ? "outline-2 outline-ink" : ""} ${left.has(piece.id) ? "border-dotted text-quiet" : "text-inherit font-semibold"}`}
            style={{ borderColor: colors.get(piece.id) }}
          >
            {piece.text}
          </mark>
        ),
      )}
      {found.text.length > MOST_LETTERS && <span className="text-quiet"> … and more</span>}
    </section>
  );
}
