import { useLinked, usePalette, usePreview, useShown } from "../../bench/context";
import { PictureChoice } from "../../bench/picture-choice";
import { useRegions } from "../../bench/use-regions";
import { PictureArea } from "../../picture/picture-area";
import { usePainted } from "../../picture/use-painted";

/** The linked picture as it is and as the draft would paint it. */
export function BeforeAndAfter({
  sides = ["before", "after"],
}: {
  /** Names of the two; null where there is nothing to compare yet. */
  sides?: readonly [string, string] | null;
}) {
  const palette = usePalette();
  const link = useLinked();
  const preview = usePreview();
  const shown = useShown();
  const before = usePainted(palette.id, link, null, palette.swatches);
  // Nothing is painted twice where there is nothing to compare.
  const after = usePainted(palette.id, sides ? link : undefined, preview, shown);
  const regions = useRegions(sides ? after.source : before.source);
  if (!link) return null;
  return (
    <PictureArea
      name={link.picture.name}
      width={link.picture.width}
      height={link.picture.height}
      original={before.painted?.canvas ?? null}
      originalVersion={before.painted?.version ?? 0}
      originalCopies={before.painted?.copies}
      result={sides ? (after.painted?.canvas ?? null) : null}
      resultCopies={sides ? after.painted?.copies : undefined}
      version={after.painted?.version ?? 0}
      sides={sides ?? ["as it is", "as it is"]}
      regions={regions}
      corner={palette.links.length > 1 && <PictureChoice />}
    />
  );
}
