import { Dialog } from "radix-ui";
import { useEffect, useMemo, useRef } from "react";
import { useDroppedPictures, useWaitingFiles } from "../imports/store";
import { named, useBringIn, useSendPictures } from "../imports/use-bring-in";
import { Band } from "../lens/chips";
import { useScreen } from "../shell/store";
import { TextButton } from "../ui/button";
import { giveFocusBack } from "../ui/marks";
import { usePalette } from "./context";
import { usePaint } from "./picture-choice";
import { useAskedPicture } from "./picture-word";
import { runStageKey, useStages } from "./stages";

const MOST_SEEN = 5;

/** Addresses of files, for as long as they are shown. */
function useAddresses(files: File[]) {
  const addresses = useMemo(() => files.map((file) => URL.createObjectURL(file)), [files]);
  useEffect(
    () => () => {
      for (const address of addresses) URL.revokeObjectURL(address);
    },
    [addresses],
  );
  return addresses;
}

/** What pictures are for that were dropped or pasted on a bench: asked before anything is done with them. */
export function DroppedPictures() {
  const { files, close } = useDroppedPictures();
  return (
    <Dialog.Root open={files.length > 0} onOpenChange={(open) => !open && close()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-30 bg-ground/85" />
        <Dialog.Content
          onCloseAutoFocus={giveFocusBack}
          aria-describedby={undefined}
          className="fixed top-1/2 left-1/2 z-30 max-h-[92vh] w-[34rem] max-w-[92vw] -translate-x-1/2 -translate-y-1/2 overflow-y-auto rounded-lg border border-ink bg-panel p-5 shadow-lg outline-none"
        >
          {files.length > 0 && <Question files={files} close={close} />}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

function Question({ files, close }: { files: File[]; close: () => void }) {
  const palette = usePalette();
  const stages = useStages();
  const say = useScreen((screen) => screen.say);
  const setStage = useScreen((screen) => screen.setStage);
  const askFor = useAskedPicture((state) => state.ask);
  const lookInto = useWaitingFiles((state) => state.open);
  const send = useSendPictures();
  const bringIn = useBringIn();
  const paint = usePaint();
  const addresses = useAddresses(files);
  const first = useRef<HTMLButtonElement>(null);
  useEffect(() => first.current?.focus(), []);
  const several = files.length > 1;
  const ways = [
    {
      title: several ? "Paint them with this palette" : "Paint it with this palette",
      use: palette.swatches.length
        ? "Every pixel takes its nearest swatch; the strip stays as it is."
        : "There is no swatch yet: the palette takes its colors from it.",
      run: async () => {
        const made = await send(files, async (id) => ((await paint(id)) ? id : null));
        if (made.length === 0) return;
        if (several) say(`Painted with this palette: ${named(made.map((entry) => entry.name))}.`);
        else setStage("reduce");
      },
      picture: (
        <span className="flex min-w-0 grow">
          <Band swatches={palette.swatches} label="" height="fill" />
        </span>
      ),
    },
    {
      title: several ? "Reduce each on a bench of its own" : "Reduce it on a bench of its own",
      use: "A new palette of 24 colors; this one stays as it is.",
      run: () => bringIn(files),
      picture: <span className="m-1 grow border border-ink" />,
    },
    {
      title: several ? "Pick from them" : "Pick from it",
      use: "Colors are picked with a disc; nothing is added before you say so.",
      run: async () => {
        const made = await send(files, async (id) => id);
        const [one] = made;
        if (!one) return;
        askFor(palette.id, one.made);
        runStageKey(stages, "pick-from-picture");
        if (several) say(`On the shelf: ${named(made.map((entry) => entry.name))}.`);
      },
      picture: (
        <span className="grid grow place-items-center">
          <span className="size-4 rounded-full border-2 border-ink" />
        </span>
      ),
    },
    {
      title: several ? "Look for swatches in them" : "Look for swatches in it",
      use: "For pictures of palettes: squares of one color, and what is written beside them.",
      run: async () => lookInto(files, palette.id),
      picture: (
        <span className="grid grow grid-cols-3 gap-0.5 p-1">
          {[0, 1, 2, 3, 4, 5].map((place) => (
            <span key={place} className="border border-ink" />
          ))}
        </span>
      ),
    },
  ];
  return (
    <>
      <Dialog.Title className="mb-3 text-title font-semibold">
        {several ? `What are these ${files.length} pictures for?` : "What is this picture for?"}
      </Dialog.Title>
      <div className="mb-4 flex items-end gap-2">
        {addresses.slice(0, MOST_SEEN).map((address, place) => (
          <img
            key={address}
            src={address}
            alt={files[place]?.name ?? ""}
            title={files[place]?.name}
            // Not every kind that the server reads is one that browsers show.
            onError={(event) => event.currentTarget.classList.add("hidden")}
            className={`h-24 min-w-0 rounded-sm bg-well object-cover ${several ? "w-20" : "min-w-24 max-w-full"}`}
          />
        ))}
        <span className="min-w-0 truncate text-small text-quiet">
          {named(files.map((file) => file.name))}
        </span>
      </div>
      <ul className="m-0 grid list-none gap-1.5 p-0">
        {ways.map((way, place) => (
          <li key={way.title}>
            <button
              ref={place === 0 ? first : undefined}
              type="button"
              className="grid w-full grid-cols-[64px_1fr] items-center gap-3 rounded-md border border-line p-2 text-left hover:bg-raised focus-visible:outline-2 focus-visible:outline-ink"
              onClick={() => {
                close();
                void way.run();
              }}
            >
              <span aria-hidden="true" className="flex h-10 overflow-hidden rounded-sm bg-ground">
                {way.picture}
              </span>
              <span>
                <span className="block font-semibold">{way.title}</span>
                <span className="block text-small text-quiet">{way.use}</span>
              </span>
            </button>
          </li>
        ))}
      </ul>
      <div className="mt-3 flex justify-end">
        <Dialog.Close asChild>
          <TextButton>Leave everything as it is</TextButton>
        </Dialog.Close>
      </div>
    </>
  );
}
