import { useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { sampleLine } from "../../api/ask-once";
import { useNewest } from "../../api/asking";
import { ask } from "../../api/queries";
import type { Sample } from "../../api/types";
import { inWords } from "../../api/words";
import { useCommands, useShown } from "../../bench/context";
import { OriginalArea, PictureWord, usePictures } from "../../bench/picture-word";
import { DropHint } from "../../imports/drop";
import { useLens } from "../../lens/lens";
import { PickLayer } from "../../picture/pick-layer";
import type { Point } from "../../picture/regions";
import { useOriginal } from "../../picture/use-painted";
import { useScreenParts } from "../../shell/store";
import { Button, TextButton } from "../../ui/button";
import { NumberWord, Sentence } from "../../ui/sentence";
import { Loupe } from "./loupe";
import { SampleFigures } from "./sample-figures";

const MOST_PICKED = 64;

interface Picked {
  key: number;
  hex: string;
  name: string;
}

interface Dropper {
  open(): Promise<{ sRGBHex: string }>;
}

/** Pick colors from a picture with a disc, along a line, or from anywhere on the screen. */
export function PickView() {
  const lens = useLens();
  const shown = useShown();
  const { operate } = useCommands();
  const { ink, setInk, select, say } = useScreenParts("ink", "setInk", "select", "say");
  const queries = useQueryClient();
  const [diameter, setDiameter] = useState(11);
  const [share, setShare] = useState(100);
  const [along, setAlong] = useState(5);
  const [at, setAt] = useState<Point | null>(null);
  const [picked, setPicked] = useState<Picked[]>([]);
  const next = useRef(1);
  const { pictures, field, picture, choose } = usePictures();
  const original = useOriginal(picture?.id);
  const looksAt = picture && at ? ask.sample(picture.id, at, diameter) : null;
  const { answer, error } = useNewest<Sample>(JSON.stringify(looksAt?.queryKey ?? null), looksAt);
  const sample: Sample | null = error ? null : (answer ?? null);

  const take = async (found: { hex: string; name: string }[]) => {
    let taken = found;
    if (share < 100 && found.length === 1 && found[0]) {
      const mixed = await queries.fetchQuery(
        ask.mixed([ink, found[0].hex.slice(0, 7)], [100 - share, share], 1),
      );
      const light = mixed.mixtures.find((mixture) => mixture.model === "light");
      if (light) taken = [{ hex: light.hex, name: light.name }];
    }
    const last = taken.at(-1);
    if (last) setInk(last.hex.slice(0, 7));
    setPicked((before) =>
      [...before, ...taken.map(({ hex, name }) => ({ key: next.current++, hex, name }))].slice(-MOST_PICKED),
    );
  };
  const pick = async (point: Point) => {
    if (!picture) return;
    try {
      await take([await queries.fetchQuery(ask.sample(picture.id, point, diameter))]);
    } catch (error) {
      say(inWords(error), { kind: "wrong" });
    }
  };
  const pickLine = async (from: Point, to: Point) => {
    if (!picture) return;
    try {
      await take(
        await sampleLine(picture.id, {
          x: from.x,
          y: from.y,
          to_x: to.x,
          to_y: to.y,
          count: along,
          diameter,
        }),
      );
    } catch (error) {
      say(inWords(error), { kind: "wrong" });
    }
  };
  const screen = (window as unknown as { EyeDropper?: new () => Dropper }).EyeDropper;
  const pickScreen = async () => {
    if (!screen) return;
    try {
      const { sRGBHex } = await new screen().open();
      const parsed = await queries.fetchQuery(ask.parsed(sRGBHex));
      const color = parsed.colors[0];
      if (color) await take([color]);
    } catch {
      // The artist closed it without choosing.
    }
  };
  const add = async () => {
    const known = new Set(shown.map((swatch) => swatch.id));
    const changed = await operate({
      kind: "derive_swatches",
      group: "",
      derivation: { kind: "samples", texts: picked.map((entry) => entry.hex), source: picture?.name ?? "" },
    });
    if (!changed) return;
    select(changed.swatches.filter((swatch) => !known.has(swatch.id)).map((swatch) => swatch.id));
    setPicked([]);
  };
  if (!picture)
    return (
      <div className="grid grow place-items-center">
        <DropHint
          title="No picture to pick from"
          text="Drop a picture anywhere, or choose one. Colors are picked from it with a disc of any size."
        />
      </div>
    );
  return (
    <div className="flex min-h-0 grow flex-col">
      <Sentence label="Recipe of the pick">
        Pick a disc of{" "}
        <NumberWord
          label="Width of the disc"
          value={diameter}
          min={1}
          max={201}
          unit={(n) => (n === 1 ? "pixel" : "pixels")}
          hint="The mean of the disc in linear light. A wide one may mix in the neighbor: the figures say so."
          onChange={setDiameter}
        />{" "}
        from <PictureWord pictures={pictures} field={field} picture={picture} onChoose={choose} />,{" "}
        <NumberWord
          label="Share taken"
          value={share}
          min={1}
          max={100}
          unit={() => "%"}
          hint="Less than 100 % is mixed into the ink, as light."
          onChange={setShare}
        />{" "}
        of it{share < 100 && " mixed into the ink"}; a drag takes{" "}
        <NumberWord
          label="Colors along a line"
          value={along}
          min={2}
          max={64}
          unit={() => "along it"}
          hint="Even distances from where the drag begins to where it ends."
          onChange={setAlong}
        />
        .
      </Sentence>
      <div className="mb-2 flex min-h-9 items-center gap-3 text-small">
        <ul aria-label="Picked colors" className="m-0 flex min-w-0 grow list-none overflow-hidden p-0">
          {picked.length === 0 && (
            <li className="text-quiet">Click to pick; what you pick waits here until you add it.</li>
          )}
          {picked.map((entry) => (
            <li key={entry.key} className="min-w-0 max-w-16 grow">
              <button
                type="button"
                className="block h-9 w-full -outline-offset-3"
                style={{ background: lens.css(entry.hex) }}
                title={`${entry.name} · ${entry.hex}: click to leave it out`}
                aria-label={`Leave out ${entry.hex}`}
                onClick={() => setPicked(picked.filter((other) => other.key !== entry.key))}
              />
            </li>
          ))}
        </ul>
        {screen && <TextButton onClick={() => void pickScreen()}>Pick from the screen</TextButton>}
        <Button disabled={picked.length === 0} onClick={() => setPicked([])}>
          Put back
        </Button>
        <Button primary disabled={picked.length === 0} onClick={() => void add()}>
          Add {picked.length || ""}
        </Button>
      </div>
      <div className="grid min-h-0 grow grid-cols-[1fr_148px] gap-4">
        <div className="flex min-h-0 min-w-0 flex-col">
          <OriginalArea picture={picture} reading="picked from">
            {(view) => (
              <PickLayer
                view={view}
                size={picture}
                diameter={diameter}
                along={along}
                at={at}
                onAt={setAt}
                onPick={(point) => void pick(point)}
                onLine={(from, to) => void pickLine(from, to)}
              />
            )}
          </OriginalArea>
        </div>
        <div className="min-w-0 overflow-y-auto">
          {original && at && <Loupe original={original} at={at} diameter={diameter} />}
          <div className="mt-2">
            <SampleFigures sample={sample} />
          </div>
        </div>
      </div>
    </div>
  );
}
