import { useQuery } from "@tanstack/react-query";
import { ask } from "../../api/queries";

const BOX = { width: 880, height: 124, left: 40, bottom: 26, top: 10 };

interface Props {
  palette: string;
  picture: string;
  colors: number;
  most: number;
  onChoose: (colors: number) => void;
}

/** The error of the picture against the number of colors; a click sets it. */
export function Curve({ palette, picture, colors, most, onChoose }: Props) {
  const query = useQuery({
    ...ask.curve(palette, picture),
  });
  if (query.error) return <p role="alert">{query.error.message}</p>;
  if (!query.data)
    return (
      <p role="status" className="py-3 text-small text-quiet">
        Measuring what each further color buys …
      </p>
    );
  const { counts, mean, p95, knee } = query.data;
  const highest = Math.max(...p95, 1);
  const x = (count: number) =>
    BOX.left + (Math.log2(count / 2) / Math.log2(most / 2)) * (BOX.width - BOX.left - 12);
  const y = (delta: number) =>
    BOX.height - BOX.bottom - (delta / highest) * (BOX.height - BOX.bottom - BOX.top);
  const line = (values: number[]) =>
    values.map((value, place) => `${x(counts[place] ?? 2).toFixed(1)},${y(value).toFixed(1)}`).join(" ");
  const near = (clientX: number, target: SVGSVGElement) => {
    const rect = target.getBoundingClientRect();
    const at = ((clientX - rect.left) / rect.width) * BOX.width;
    const count = 2 * 2 ** (((at - BOX.left) / (BOX.width - BOX.left - 12)) * Math.log2(most / 2));
    return Math.round(Math.min(most, Math.max(2, count)));
  };
  return (
    <figure className="mb-2 border-y border-line py-2">
      <figcaption className="mb-1 flex gap-5 text-small text-quiet">
        <span>
          <strong className="font-semibold text-ink">Mean ΔE</strong> (line) and 95th percentile (dashes)
          before dithering. Click to set the number.
        </span>
        {knee && (
          <button
            type="button"
            className="font-semibold text-ink underline underline-offset-4"
            onClick={() => onChoose(knee)}
          >
            Past {knee} colors each one more buys little
          </button>
        )}
      </figcaption>
      {/* biome-ignore lint/a11y/useKeyWithClickEvents: the number in the sentence does the same by keyboard */}
      <svg
        viewBox={`0 0 ${BOX.width} ${BOX.height}`}
        className="block w-full cursor-pointer"
        role="img"
        aria-label={`Error against the number of colors, from ${mean[0]?.toFixed(1)} at ${counts[0]} to ${mean.at(-1)?.toFixed(1)} at ${counts.at(-1)}`}
        onClick={(event) => onChoose(near(event.clientX, event.currentTarget))}
      >
        {[2, 4, 8, 16, 32, 64, 128, 256].map((count) => (
          <g key={count}>
            <line
              x1={x(count)}
              x2={x(count)}
              y1={BOX.top}
              y2={BOX.height - BOX.bottom}
              stroke="var(--line)"
            />
            <text x={x(count)} y={BOX.height - 8} textAnchor="middle" fontSize={12} fill="var(--quiet)">
              {count}
            </text>
          </g>
        ))}
        {[0, highest / 2, highest].map((delta) => (
          <text
            key={delta}
            x={BOX.left - 8}
            y={y(delta) + 4}
            textAnchor="end"
            fontSize={12}
            fill="var(--quiet)"
          >
            {delta.toFixed(0)}
          </text>
        ))}
        <polyline
          points={line(p95)}
          fill="none"
          stroke="var(--ink)"
          strokeWidth={1.5}
          strokeDasharray="5 4"
        />
        <polyline points={line(mean)} fill="none" stroke="var(--ink)" strokeWidth={2.5} />
        {knee && (
          <circle
            cx={x(knee)}
            cy={y(mean[counts.indexOf(knee)] ?? 0)}
            r={5}
            fill="var(--ground)"
            stroke="var(--ink)"
            strokeWidth={2}
          />
        )}
        <line
          x1={x(Math.max(colors, 2))}
          x2={x(Math.max(colors, 2))}
          y1={BOX.top}
          y2={BOX.height - BOX.bottom}
          stroke="var(--ink)"
          strokeWidth={2}
        />
      </svg>
    </figure>
  );
}
