import { Check, CircleAlert, X } from "lucide-react";
import { Dialog } from "radix-ui";
import { useState } from "react";
import { navigate } from "wouter/use-browser-location";
import type { Palette } from "../api/types";
import { Band } from "../lens/chips";
import { TextButton } from "../ui/button";
import { count, Detail } from "./detail";
import { useWaitingFiles } from "./store";
import { useBringIn } from "./use-bring-in";
import { type Item, useImport } from "./use-import";

function FileRow({ item, chosen, onChoose }: { item: Item; chosen: boolean; onChoose: () => void }) {
  const { file, problem, reading, choice } = item;
  return (
    <li>
      <button
        type="button"
        aria-current={chosen}
        onClick={onChoose}
        className={`block w-full border-l-4 px-3 py-2.5 text-left -outline-offset-2 ${chosen ? "border-ink bg-raised" : "border-transparent hover:bg-panel"}`}
      >
        <span className="flex items-center gap-1.5">
          {choice.done && <Check size={15} aria-label="Brought in" className="shrink-0" />}
          {problem && <CircleAlert size={15} aria-label="Problem" className="shrink-0" />}
          <span className="min-w-0 truncate font-semibold" title={file.name}>
            {file.name}
          </span>
        </span>
        <span className="mb-1.5 block truncate text-small text-quiet">
          {choice.done?.text ??
            (problem
              ? "cannot be read"
              : reading
                ? `${reading.label} · ${count(reading.swatches.length, "swatch")}`
                : "looking …")}
        </span>
        {reading && <Band swatches={reading.swatches.slice(0, 64)} label="" height={14} />}
      </button>
    </li>
  );
}

function Page({ files, target, close }: { files: File[]; target: string | null; close: () => void }) {
  const { items, choose } = useImport(files, target);
  const [wanted, setPlace] = useState<number | null>(null);
  const bringIn = useBringIn();
  // The first file that can be decided stands open, not the first that failed.
  const decidable = items.findIndex((entry) => entry.reading && !entry.choice.done);
  const place = wanted ?? Math.max(decidable, 0);
  const item = items[place];
  const left = items.filter((entry) => !entry.choice.done && !entry.problem).length;
  const done = (at: number, palette: Palette, text: string) => {
    choose(at, { done: { palette: palette.id, text } });
    const next = items.findIndex((entry, other) => other !== at && !entry.choice.done && !entry.problem);
    if (next >= 0) setPlace(next);
    else {
      close();
      navigate(`/palettes/${palette.id}`);
    }
  };
  return (
    <>
      <header className="flex h-14 shrink-0 items-center gap-3 border-b border-line px-6">
        <Dialog.Title className="text-title font-semibold">
          Bring in {files.length === 1 ? files[0]?.name : `${files.length} files`}
        </Dialog.Title>
        <Dialog.Description className="text-small text-quiet">
          Nothing changes before you say so
        </Dialog.Description>
        <span className="grow" />
        {files.length > 1 && <span className="text-small text-quiet">{left} to decide</span>}
        <Dialog.Close asChild>
          <TextButton>
            <X size={16} aria-hidden="true" className="mr-1 -mt-0.5 inline" />
            {items.some((entry) => entry.choice.done) ? "Close" : "Leave everything as it is"}
          </TextButton>
        </Dialog.Close>
      </header>
      <div className="flex min-h-0 grow">
        {files.length > 1 && (
          <ul
            aria-label="Files"
            className="m-0 w-[280px] shrink-0 list-none overflow-y-auto border-r border-line p-0"
          >
            {items.map((entry, at) => (
              <FileRow key={entry.key} item={entry} chosen={at === place} onChoose={() => setPlace(at)} />
            ))}
          </ul>
        )}
        <div className="min-w-0 grow px-6 pt-3">
          {item && (
            <Detail
              key={item.key}
              item={item}
              onChoose={(part) => choose(place, part)}
              onDone={(palette, text) => done(place, palette, text)}
              onBench={() => {
                close();
                void bringIn([item.file]);
              }}
            />
          )}
        </div>
      </div>
    </>
  );
}

/** What the files hold, and how it comes in: shown before anything changes. */
export function ImportPage() {
  const { waiting, close } = useWaitingFiles();
  return (
    <Dialog.Root open={waiting !== null} onOpenChange={(open) => !open && close()}>
      <Dialog.Portal>
        <Dialog.Content className="fixed inset-0 z-30 flex flex-col bg-ground text-ink outline-none">
          {waiting && <Page files={waiting.files} target={waiting.target} close={close} />}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
