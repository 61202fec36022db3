import type { Swatch } from "../../api/types";
import { Patch } from "../../lens/patch";

/** What a draft would add, large enough to judge. */
export function AddedChips({ swatches, label }: { swatches: Swatch[]; label: string }) {
  return (
    <ul aria-label={label} className="m-0 flex list-none flex-wrap gap-x-3 gap-y-3 p-0">
      {swatches.slice(0, 96).map((swatch) => (
        <li key={swatch.id} className="w-[92px] text-small">
          <Patch className="mb-1 block h-14" color={swatch.hex} />
          <span className="block truncate font-semibold" title={swatch.name}>
            {swatch.name}
          </span>
          <span className="text-quiet">{swatch.hex}</span>
        </li>
      ))}
    </ul>
  );
}
