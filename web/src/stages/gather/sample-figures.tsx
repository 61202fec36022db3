import type { Sample } from "../../api/types";
import { Patch } from "../../lens/patch";

/** What lies under the disc, in words and colors. */
export function SampleFigures({ sample }: { sample: Sample | null }) {
  if (!sample) return <p className="text-small text-quiet">Move over the picture.</p>;
  return (
    <div className="text-small">
      <Patch className="mb-1 block h-12" color={sample.hex} />
      <span className="block truncate font-semibold">{sample.name}</span>
      <span className="block text-quiet">
        {sample.hex} · {sample.pixels === 1 ? "1 pixel" : `${sample.pixels.toLocaleString("en")} pixels`}
      </span>
      <span className="block text-quiet">{sample.pixels > 1 && `spread ΔE ${sample.spread.toFixed(1)}`}</span>
      {sample.kinds.length > 0 && (
        <div role="status" className="mt-1.5">
          <span className="flex h-4">
            {sample.kinds.map((kind) => (
              <Patch key={kind.hex} color={kind.hex} style={{ flex: kind.share }} />
            ))}
          </span>
          <span className="font-semibold">Two colors in one disc: a smaller one picks them apart.</span>
        </div>
      )}
    </div>
  );
}
