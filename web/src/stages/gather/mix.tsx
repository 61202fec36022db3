import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { ask } from "../../api/queries";
import { useCommands, useShown } from "../../bench/context";
import { useLens } from "../../lens/lens";
import { Patch } from "../../lens/patch";
import { useScreenParts } from "../../shell/store";
import { Button, TextButton } from "../../ui/button";
import { NumberWord, Sentence } from "../../ui/sentence";

interface Paint {
  id: string;
  parts: number;
}

const MOST = 12;

/** Two or more swatches mixed by parts, as paint and as light; any step of the ladder between two can be kept. */
export function MixView() {
  const lens = useLens();
  const shown = useShown();
  const { operate } = useCommands();
  const { selected, selection, select } = useScreenParts("selected", "selection", "select");
  // Begins with what is selected, if that can be mixed.
  const [paints, setPaints] = useState<Paint[]>(() =>
    selected.length > 1 && selected.length <= MOST
      ? shown
          .filter((swatch) => selection.has(swatch.id) && swatch.alpha > 0)
          .map((swatch) => ({ id: swatch.id, parts: 1 }))
      : [],
  );
  const [steps, setSteps] = useState(7);
  const byId = new Map(shown.map((swatch) => [swatch.id, swatch]));
  const used = paints.filter((paint) => byId.has(paint.id));
  const texts = used.map((paint) => byId.get(paint.id)?.hex.slice(0, 7) ?? "");
  const parts = used.map((paint) => paint.parts);
  // Nothing of each gives nothing, and is not asked for.
  const isNothing = used.length > 1 && parts.every((part) => part === 0);
  const mixed = useQuery({
    ...ask.mixed(texts, parts, steps),
    enabled: used.length > 1 && !isNothing,
    placeholderData: (before) => before,
  });
  const problem = isNothing ? "All parts are 0: give one of them some." : mixed.error?.message;
  const keep = async (model: string, only: number | null, ladder: boolean) => {
    const known = new Set(shown.map((swatch) => swatch.id));
    const changed = await operate({
      kind: "derive_swatches",
      group: "",
      derivation: {
        kind: "mixture",
        model: model as "pigment" | "light",
        paints: used.map((paint) => ({ color: { swatch: paint.id }, parts: paint.parts })),
        steps: ladder ? steps : 0,
        only,
      },
    });
    if (changed)
      select(changed.swatches.filter((swatch) => !known.has(swatch.id)).map((swatch) => swatch.id));
  };
  const addSelected = () =>
    setPaints(
      [
        ...used,
        ...shown
          .filter((swatch) => selection.has(swatch.id) && swatch.alpha > 0)
          .filter((swatch) => !used.some((paint) => paint.id === swatch.id))
          .map((swatch) => ({ id: swatch.id, parts: 1 })),
      ].slice(0, MOST),
    );
  return (
    <div className="flex min-h-0 grow flex-col">
      <Sentence label="Recipe of the mixture">
        Mix{" "}
        {used.length === 0 ? (
          "two swatches or more by parts"
        ) : (
          <strong>
            {used.map((paint) => byId.get(paint.id)?.name).join(", ")} {parts.join(" : ")}
          </strong>
        )}
        {used.length === 2 && (
          <>
            , with{" "}
            <NumberWord
              label="Steps of the ladder"
              value={steps}
              min={1}
              max={32}
              unit={(n) => (n === 1 ? "step between" : "steps between")}
              hint="Even parts from one to the other. Click a step to keep it."
              onChange={setSteps}
            />
          </>
        )}
        .
      </Sentence>
      <div className="mb-3 flex min-h-8 items-center gap-3 text-small">
        <Button disabled={selected.length === 0 || used.length >= MOST} onClick={addSelected}>
          Take the selected {selected.length === 1 ? "swatch" : `${selected.length} swatches`}
        </Button>
        {used.length > 0 && <TextButton onClick={() => setPaints([])}>Begin anew</TextButton>}
        {used.length < 2 && (
          <span className="text-quiet">
            Select swatches in the strip and take them; two or more can be mixed.
          </span>
        )}
      </div>
      <div className="min-h-0 overflow-y-auto p-0.5">
        <ul aria-label="Paints" className="m-0 mb-5 flex list-none flex-wrap gap-4 p-0">
          {used.map((paint) => {
            const swatch = byId.get(paint.id);
            return (
              <li key={paint.id} className="w-28 text-small">
                <Patch className="mb-1 block h-16" color={swatch?.hex} />
                <span className="block truncate font-semibold">{swatch?.name}</span>
                <span className="flex items-center gap-1.5">
                  <input
                    type="number"
                    aria-label={`Parts of ${swatch?.name}`}
                    min={0}
                    max={1000}
                    step={1}
                    value={paint.parts}
                    className="w-14 border-b border-ink bg-transparent text-right"
                    onChange={(event) =>
                      setPaints(
                        used.map((other) =>
                          other.id === paint.id
                            ? {
                                ...other,
                                parts: Math.min(1000, Math.max(0, Number(event.target.value) || 0)),
                              }
                            : other,
                        ),
                      )
                    }
                  />
                  <span className="grow text-quiet">{paint.parts === 1 ? "part" : "parts"}</span>
                  <button
                    type="button"
                    aria-label={`Take ${swatch?.name} out`}
                    className="px-1 text-quiet hover:text-ink"
                    onClick={() => setPaints(used.filter((other) => other.id !== paint.id))}
                  >
                    ×
                  </button>
                </span>
              </li>
            );
          })}
        </ul>
        {problem && used.length > 1 && (
          <p role="alert" className="mb-3 border-l-4 border-ink pl-3">
            {problem}
          </p>
        )}
        {used.length > 1 &&
          !problem &&
          mixed.data?.mixtures.map((mixture) => (
            <section key={mixture.model} aria-label={`Mixed as ${mixture.label}`} className="mb-5">
              <h3 className="mb-1.5 text-small">
                <strong className="font-semibold">As {mixture.label}</strong>{" "}
                <span className="text-quiet">{mixture.use}</span>
              </h3>
              <div className="flex items-stretch gap-4">
                <div className="w-36 shrink-0 text-small">
                  <Patch className="mb-1 block h-16" color={mixture.hex} />
                  <span className="block truncate font-semibold">{mixture.name}</span>
                  <span className="flex items-center justify-between text-quiet">
                    {mixture.hex}
                    <TextButton
                      aria-label={`Keep as ${mixture.label}`}
                      onClick={() => void keep(mixture.model, null, false)}
                    >
                      Keep
                    </TextButton>
                  </span>
                </div>
                {used.length === 2 && (
                  <div className="min-w-0 grow">
                    <div className="flex h-16">
                      <Patch className="w-6" color={texts[0]} />
                      {mixture.ladder.map((hex, place) => (
                        <button
                          type="button"
                          // biome-ignore lint/suspicious/noArrayIndexKey: a step is its place on the ladder
                          key={place}
                          title={`${hex}: click to keep this step`}
                          aria-label={`Keep step ${place + 1} as ${mixture.label}, ${hex}`}
                          className="min-w-0 grow -outline-offset-4 hover:shadow-[inset_0_0_0_2px_#fff,inset_0_0_0_3px_#000]"
                          style={{ background: lens.css(hex) }}
                          onClick={() => void keep(mixture.model, place, true)}
                        />
                      ))}
                      <Patch className="w-6" color={texts[1]} />
                    </div>
                    <TextButton
                      className="-ml-1.5"
                      aria-label={`Keep all ${mixture.ladder.length} as ${mixture.label}`}
                      onClick={() => void keep(mixture.model, null, true)}
                    >
                      Keep all {mixture.ladder.length}
                    </TextButton>
                  </div>
                )}
              </div>
            </section>
          ))}
      </div>
    </div>
  );
}
