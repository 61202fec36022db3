import { useQuery } from "@tanstack/react-query";
import { client, unwrap } from "../../api/client";
import { useBench } from "../../bench/context";
import { PanelWord } from "../../ui/sentence";

/** A palette of the shelf, in its lossless form. */
export interface Other {
  id: string;
  name: string;
  document: Record<string, unknown>;
}

export async function fetchDocument(id: string, step?: number): Promise<Record<string, unknown>> {
  const answer = await unwrap(
    client.GET("/api/palettes/{palette_id}/document", {
      params: { path: { palette_id: id }, query: step === undefined ? {} : { step } },
    }),
  );
  return answer.document;
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
  const { palette } = useBench();
  const shelf = useQuery({
    queryKey: ["shelf", false],
    queryFn: () => unwrap(client.GET("/api/shelf", { params: { query: { trash: false } } })),
  });
  const cards = (shelf.data?.palettes ?? []).filter((card) => card.count > 0 && card.id !== palette.id);
  return (
    <PanelWord label={label} text={other?.name ?? "another palette"}>
      {cards.length === 0 && (
        <p className="text-[13px] text-quiet">There is no other palette on the shelf yet.</p>
      )}
      <ul className="m-0 grid max-h-72 list-none gap-2 overflow-y-auto p-0.5">
        {cards.map((card) => (
          <li key={card.id}>
            <button
              type="button"
              className="block w-full text-left"
              onClick={async () =>
                onChoose({ id: card.id, name: card.name, document: await fetchDocument(card.id) })
              }
            >
              <span className="flex h-5">
                {card.hexes.map((hex, place) => (
                  // biome-ignore lint/suspicious/noArrayIndexKey: the strip's own order is the identity here
                  <span key={place} className="grow" style={{ background: hex.slice(0, 7) }} />
                ))}
              </span>
              <span className={`text-[13px] ${card.id === other?.id ? "font-semibold" : ""}`}>
                {card.name} <span className="text-quiet">{card.count}</span>
              </span>
            </button>
          </li>
        ))}
      </ul>
    </PanelWord>
  );
}
