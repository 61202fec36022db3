import { useQueryClient } from "@tanstack/react-query";
import { ask } from "../../api/queries";
import { usePalette } from "../../bench/context";
import { ShelfPalettes } from "../../bench/other-palette";
import { ChooseFile } from "../../imports/drop";
import { useWaitingFiles } from "../../imports/store";
import { Sentence } from "../../ui/sentence";

/** What another palette or any file holds: shown first, with a choice of what comes in and how. */
export function BringView() {
  const palette = usePalette();
  const queries = useQueryClient();
  const open = useWaitingFiles((state) => state.open);
  const take = async (id: string, name: string) => {
    const document = await queries.fetchQuery({ ...ask.document(id), staleTime: 0 });
    const text = JSON.stringify({ format: "huvren-palette", version: 1, ...document });
    open([new File([text], `${name}.json`, { type: "application/json" })], palette.id);
  };
  return (
    <div className="flex min-h-0 grow flex-col">
      <Sentence label="What this view does">
        Bring colors in from a file, or from another palette of yours.
      </Sentence>
      <div className="my-2 flex items-center gap-4 text-small">
        <ChooseFile kind="any" primary={false} label="Bring in files" target={palette.id} />
        <p className="text-quiet">
          Palettes, pictures, style sheets, drawings, workbooks, any text with colors. Or drop them anywhere,
          or paste: what they hold is shown before anything changes.
        </p>
      </div>
      <h3 className="mt-3 mb-2 border-t border-line pt-3 text-small text-quiet">On your shelf</h3>
      <ShelfPalettes wide onChoose={({ id, name }) => void take(id, name)} />
    </div>
  );
}
