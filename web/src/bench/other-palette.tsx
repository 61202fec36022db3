import { type QueryClient, useQueryClient } from "@tanstack/react-query";
import { ask } from "../api/queries";
import { PaletteChoice, useShelfCards } from "../cards/shelf-cards";
import { PanelWord } from "../ui/sentence";
import { usePalette } from "./context";

/** A palette of the shelf, in its lossless form. */
export interface Other {
  id: string;
  name: string;
  document: Record<string, unknown>;
}

/** The other palettes of the shelf, to choose one: in a panel, or `wide` over a view. */
export function ShelfPalettes({
  current,
  wide = false,
  onChoose,
}: {
  /** Id of the one that is chosen. */
  current?: string | undefined;
  wide?: boolean;
  onChoose: (palette: { id: string; name: string }) => void;
}) {
  const palette = usePalette();
  const shelf = useShelfCards("palettes", ">0");
  if (!shelf.cards) return null;
  const cards = shelf.cards.filter((card) => card.id !== palette.id);
  if (cards.length === 0 && !shelf.field)
    return <p className="text-small text-quiet">There is no other palette on the shelf yet.</p>;
  return (
    <>
      {shelf.field}
      <ul
        aria-label="Palettes of the shelf"
        className={`m-0 grid min-h-0 list-none overflow-y-auto ${
          wide
            ? "grid-cols-[repeat(auto-fill,minmax(260px,1fr))] content-start gap-x-6 gap-y-4 p-1"
            : "max-h-72 gap-2 p-0.5"
        }`}
      >
        {cards.map((card) => (
          <li key={card.id}>
            <PaletteChoice
              card={card}
              wide={wide}
              {...(current === undefined ? {} : { isChosen: card.id === current })}
              onChoose={() => onChoose({ id: card.id, name: card.name })}
            />
          </li>
        ))}
      </ul>
    </>
  );
}

/** A word that chooses another palette of the shelf. */
export function OtherPaletteWord({
  label,
  other,
  onChoose,
}: {
  label: string;
  other: Other | null;
  onChoose: (other: Other) => void;
}) {
  const queries = useQueryClient();
  return (
    <PanelWord label={label} text={other?.name ?? "another palette"}>
      <ShelfPalettes
        current={other?.id}
        onChoose={async (chosen) => onChoose(await fetchOther(queries, chosen))}
      />
    </PanelWord>
  );
}

/** Its document as it is now. */
export async function fetchOther(
  queries: QueryClient,
  { id, name }: { id: string; name: string },
): Promise<Other> {
  return { id, name, document: await queries.fetchQuery({ ...ask.document(id), staleTime: 0 }) };
}
