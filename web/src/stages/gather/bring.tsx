import { useQuery } from "@tanstack/react-query";
import { client, unwrap } from "../../api/client";
import { useBench } from "../../bench/context";
import { useWaitingFiles } from "../../imports/store";
import { ChooseFile } from "../../shelf/drop";
import { Sentence } from "../../ui/sentence";
import { fetchDocument } from "../arrange/other-palette";

/** What another palette or any file holds: shown first, with a choice of what comes in and how. */
export function BringView() {
  const { palette } = useBench();
  const open = useWaitingFiles((state) => state.open);
  const shelf = useQuery({
    queryKey: ["shelf", false],
    queryFn: () => unwrap(client.GET("/api/shelf", { params: { query: { trash: false } } })),
  });
  const cards = (shelf.data?.palettes ?? []).filter((card) => card.count > 0 && card.id !== palette.id);
  const take = async (id: string, name: string) => {
    const document = await fetchDocument(id);
    const text = JSON.stringify({ format: "huvren-palette", version: 1, ...document });
    open([new File([text], `${name}.json`, { type: "application/json" })], palette.id);
  };
  return (
    <div className="flex min-h-0 grow flex-col">
      <Sentence label="What this view does">
        Bring colors in from a file, or from another palette of yours.
      </Sentence>
      <div className="my-2 flex items-center gap-4 text-[13px]">
        <ChooseFile kind="any" primary={false} label="Bring in files" target={palette.id} />
        <p className="text-quiet">
          Palettes, pictures, style sheets, drawings, workbooks, any text with colors. Or drop them anywhere,
          or paste: what they hold is shown before anything changes.
        </p>
      </div>
      <h3 className="mt-3 mb-2 border-t border-line pt-3 text-[13px] text-quiet">On your shelf</h3>
      {cards.length === 0 && <p className="text-quiet">There is no other palette on the shelf yet.</p>}
      <ul className="m-0 grid min-h-0 list-none grid-cols-[repeat(auto-fill,minmax(260px,1fr))] content-start gap-x-6 gap-y-4 overflow-y-auto p-1">
        {cards.map((card) => (
          <li key={card.id}>
            <button
              type="button"
              className="block w-full text-left"
              onClick={() => void take(card.id, card.name)}
            >
              <span className="flex h-9">
                {card.hexes.map((hex, place) => (
                  // biome-ignore lint/suspicious/noArrayIndexKey: the strip's own order is the identity here
                  <span key={place} className="grow" style={{ background: hex.slice(0, 7) }} />
                ))}
              </span>
              <span className="mt-1 block truncate text-[13px]">
                <strong className="font-semibold">{card.name}</strong>{" "}
                <span className="text-quiet">{card.count} swatches</span>
              </span>
            </button>
          </li>
        ))}
      </ul>
    </div>
  );
}
