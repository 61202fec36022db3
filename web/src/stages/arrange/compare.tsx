import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { ask } from "../../api/queries";
import type { Operation } from "../../api/types";
import { usePalette } from "../../bench/context";
import { DraftBar, Figure } from "../../bench/draft-bar";
import { fetchOther, type Other, OtherPaletteWord, ShelfPalettes } from "../../bench/other-palette";
import { useDraft } from "../../bench/use-draft";
import { useLens } from "../../lens/lens";
import { Patch } from "../../lens/patch";
import { useScreenParts } from "../../shell/store";
import { ChoiceWord, NumberWord, Sentence } from "../../ui/sentence";

const WAYS = [
  {
    id: "snap",
    label: "Snap to the colors of",
    use: "Each swatch takes the color of its nearest there, and stays itself.",
  },
  {
    id: "common",
    label: "Keep what is also in",
    use: "Swatches with a partner there, within the tolerance.",
  },
  { id: "difference", label: "Keep what is not in", use: "Swatches without a partner there." },
  {
    id: "union",
    label: "Add what is new in",
    use: "The other's swatches that are not here within the tolerance.",
  },
];
const DOING: Record<string, string> = {
  snap: "Snap",
  common: "Keep these",
  difference: "Keep these",
  union: "Add",
};

function operationOf(way: string, other: Other, tolerance: number): Operation {
  const base = { document: other.document, source: other.name };
  if (way === "snap") return { kind: "snap_to", ids: null, names: false, ...base };
  if (way === "union") return { kind: "bring_in", how: "union", tolerance, join_groups: false, ...base };
  return { kind: "keep_shared", ids: null, keep: way as "common" | "difference", tolerance, ...base };
}

/** Two palettes against each other. */
export function CompareView() {
  const lens = useLens();
  const palette = usePalette();
  const { hover, select } = useScreenParts("hover", "select");
  const queries = useQueryClient();
  const [other, setOther] = useState<Other | null>(null);
  const [way, setWay] = useState("snap");
  const [tenths, setTenths] = useState(20);
  const wish = JSON.stringify([other?.id, way, tenths]);
  const { proposal, problem } = useDraft({
    operation: other && operationOf(way, other, tenths / 10),
    said: wish,
  });
  const matches = useQuery({
    ...ask.matches(palette, other),
  });
  const byId = new Map(palette.swatches.map((swatch) => [swatch.id, swatch]));
  return (
    <>
      <Sentence label="Recipe of the comparison">
        <ChoiceWord label="What is done" value={way} choices={WAYS} onChange={setWay} />{" "}
        <OtherPaletteWord label="The other palette" other={other} onChoose={setOther} />
        {way !== "snap" && (
          <>
            {" "}
            within{" "}
            <NumberWord
              label="Tolerance"
              value={tenths}
              min={0}
              max={200}
              scale={10}
              unit={() => "ΔE"}
              hint="Two colors closer than this count as the same."
              onChange={setTenths}
            />
          </>
        )}
        .
      </Sentence>
      <DraftBar canKeep={Boolean(proposal?.changes)} label={DOING[way] ?? "Keep"}>
        {problem ? (
          <span role="alert" className="font-semibold text-ink">
            {problem}
          </span>
        ) : (
          <>
            <Figure name="here" value={palette.swatches.length} />
            <Figure name="after" value={proposal?.swatches.length ?? palette.swatches.length} />
            {matches.data && (
              <Figure
                name="with a partner"
                value={`${matches.data.matches.filter((m) => (m.delta ?? Infinity) <= tenths / 10).length}`}
                title={`Within ΔE ${tenths / 10}`}
              />
            )}
          </>
        )}
      </DraftBar>
      {other === null ? (
        <>
          <p className="mb-2 text-small text-quiet">
            Choose the other palette: each swatch is then shown with its nearest there.
          </p>
          <ShelfPalettes wide onChoose={async (chosen) => setOther(await fetchOther(queries, chosen))} />
        </>
      ) : (
        <ul
          aria-label="Each swatch and its nearest"
          className="m-0 grid min-h-0 list-none grid-cols-[repeat(auto-fill,minmax(280px,1fr))] content-start gap-x-6 gap-y-2 overflow-y-auto p-1"
        >
          {matches.data?.matches.slice(0, 1000).map((match) => {
            const swatch = byId.get(match.id);
            if (!swatch) return null;
            const near = (match.delta ?? Infinity) <= tenths / 10;
            return (
              <li key={match.id}>
                <button
                  type="button"
                  className="flex w-full items-center gap-3 text-left text-small"
                  onClick={() => select([match.id])}
                  onPointerEnter={() => hover(match.id)}
                  onPointerLeave={() => hover(null)}
                >
                  <span className="flex shrink-0">
                    <Patch
                      className={`h-9 w-12 ${swatch.alpha === 0 ? "checkered" : ""}`}
                      color={swatch.alpha === 0 ? null : lens.css(swatch.hex)}
                    />
                    <Patch
                      className={match.hex === null ? "hatched h-9 w-12" : "h-9 w-12"}
                      color={match.hex === null ? null : match.hex}
                    />
                  </span>
                  <span className="min-w-0 grow">
                    <span className="block truncate font-semibold">{swatch.name}</span>
                    <span className="block truncate text-quiet">{match.name ?? "nothing like it"}</span>
                  </span>
                  <span className={`shrink-0 ${near ? "font-semibold" : "text-quiet"}`}>
                    {match.delta === null ? "" : `ΔE ${match.delta.toFixed(1)}`}
                  </span>
                </button>
              </li>
            );
          })}
        </ul>
      )}
    </>
  );
}
