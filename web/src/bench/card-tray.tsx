import { type QueryClient, useQuery } from "@tanstack/react-query";
import { navigate } from "wouter/use-browser-location";
import { ask, KEYS } from "../api/queries";
import type { Palette } from "../api/types";
import { inWords } from "../api/words";
import { HexBand } from "../lens/chips";
import { useScreen } from "../shell/store";
import { takeInto } from "./clip";
import { useBench } from "./context";

const MOST_CARDS = 6;

/** The card of another palette under a place of the window. */
export function cardAt(x: number, y: number): { id: string; name: string } | null {
  for (const part of document.elementsFromPoint(x, y)) {
    const { paletteCard, paletteName } =
      (part as HTMLElement).closest<HTMLElement>("[data-palette-card]")?.dataset ?? {};
    if (paletteCard) return { id: paletteCard, name: paletteName ?? "" };
  }
  return null;
}

/** Take swatches of the bench into another palette, and offer to look at it there. */
export async function takeToCard(
  queries: QueryClient,
  from: string,
  ids: string[],
  card: { id: string; name: string },
) {
  const { say } = useScreen.getState();
  const palette = queries.getQueryData<Palette>(KEYS.palette(from));
  if (!palette) return;
  const kept = new Set(palette.swatches.map((swatch) => swatch.id));
  const taken = ids.filter((id) => kept.has(id));
  if (taken.length === 0) {
    say("These are of a preview. Keep it first, then take them along.", { kind: "wrong" });
    return;
  }
  try {
    await takeInto(
      queries,
      { palette: from, name: palette.name, step: palette.revision, ids: taken },
      card.id,
    );
    say(`${taken.length === 1 ? "1 swatch is" : `${taken.length} swatches are`} in “${card.name}” as well.`, {
      action: { label: "Open it", run: () => navigate(`/palettes/${card.id}`) },
    });
  } catch (error) {
    say(inWords(error), { kind: "wrong" });
  }
}

/** Other palettes, those changed last, while swatches are dragged: let go over one, they are taken there. */
export function CardTray({ over }: { over: string | null }) {
  const { id } = useBench();
  const shelf = useQuery(ask.cards("palettes"));
  const cards = (shelf.data?.cards ?? []).filter((card) => card.id !== id).slice(0, MOST_CARDS);
  if (cards.length === 0) return null;
  return (
    <div
      role="status"
      aria-label="Let go over a palette to take them there"
      className="fixed inset-x-0 bottom-0 z-30 flex items-end gap-4 border-t border-ink bg-panel px-5 pt-2.5 pb-3 shadow-lg"
    >
      <span className="w-28 shrink-0 self-center text-small text-quiet">Let go here to take them along</span>
      {cards.map((card) => (
        <div
          key={card.id}
          data-palette-card={card.id}
          data-palette-name={card.name}
          className={`min-w-0 flex-1 p-1 ${over === card.id ? "outline-2 outline-ink" : ""}`}
        >
          <span className="flex h-8 overflow-hidden">
            {card.strip === "" ? <span className="hatched grow" /> : <HexBand strip={card.strip} />}
          </span>
          <span className="block truncate text-small font-semibold">{card.name}</span>
        </div>
      ))}
    </div>
  );
}
