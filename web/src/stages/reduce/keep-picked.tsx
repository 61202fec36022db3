import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { ask } from "../../api/queries";
import { inWords } from "../../api/words";
import { useBench, useShown } from "../../bench/context";
import { enter } from "../../bench/lines";
import { Patch } from "../../lens/patch";
import { PickLayer } from "../../picture/pick-layer";
import type { Point } from "../../picture/regions";
import type { View } from "../../picture/view";
import { useScreen } from "../../shell/store";
import { Button } from "../../ui/button";

/** The disc whose mean is taken, in pixels: wide enough for the grain of a photograph. */
const DIAMETER = 5;

/** What stands over the picture while colors to keep are picked in it: what is locked so far, and the way back. */
export function KeepBar({ onDone }: { onDone: () => void }) {
  const locked = useShown().filter((swatch) => swatch.locked);
  useEffect(() => {
    const done = (event: KeyboardEvent) => {
      if (event.key !== "Escape") return;
      // The recipe that is tried out stays: Escape ends the picking alone.
      event.stopPropagation();
      onDone();
    };
    window.addEventListener("keydown", done, true);
    return () => window.removeEventListener("keydown", done, true);
  }, [onDone]);
  return (
    <div className="mb-1.5 flex min-h-8 items-center gap-3 text-small">
      <span>Click a color in the picture to keep it.</span>
      <ul aria-label="Kept colors" className="m-0 flex min-w-0 grow list-none gap-1 overflow-hidden p-0">
        {locked.map((swatch) => (
          <li key={swatch.id} title={`${swatch.name} · ${swatch.hex}`}>
            <Patch className="block size-6" color={swatch.hex} />
          </li>
        ))}
      </ul>
      <Button onClick={onDone}>Done</Button>
    </div>
  );
}

/** Takes the color under a click as a locked swatch; the recipe is tried out with it at once. */
export function KeepLayer({
  view,
  picture,
}: {
  view: View;
  picture: { id: string; width: number; height: number };
}) {
  const queries = useQueryClient();
  const bench = useBench();
  const say = useScreen((screen) => screen.say);
  const [at, setAt] = useState<Point | null>(null);
  const pick = async (point: Point) => {
    try {
      const { hex } = await queries.fetchQuery(ask.sample(picture.id, point, DIAMETER));
      enter(queries, bench, hex, { locked: true });
    } catch (error) {
      say(inWords(error), { kind: "wrong" });
    }
  };
  return (
    <PickLayer
      view={view}
      size={picture}
      diameter={DIAMETER}
      at={at}
      onAt={setAt}
      onPick={(point) => void pick(point)}
    />
  );
}
