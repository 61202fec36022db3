import { useQueryClient } from "@tanstack/react-query";
import { Popover } from "radix-ui";
import { useState } from "react";
import { KEYS } from "../api/queries";
import type { Palette, Recipe } from "../api/types";
import { useShelfCards } from "../cards/shelf-cards";
import { Thumbnail } from "../picture/thumbnail";
import { TextButton } from "../ui/button";
import { giveFocusBack } from "../ui/marks";
import { PANEL } from "../ui/sentence";
import { useBench, useCommands, useLinked, usePalette } from "./context";

/** Let the palette paint a picture with the strip as it is; whether it does. */
export function usePaint() {
  const { id } = useBench();
  const queries = useQueryClient();
  const link = useLinked();
  const { inTurn, showPicture } = useCommands();
  return async (picture: string): Promise<boolean> => {
    // The server fills in what is not said. A strip without a swatch gets its colors from the picture: the first of several.
    const swatches = queries.getQueryData<Palette>(KEYS.palette(id))?.swatches ?? [];
    const chooser = swatches.length > 0 ? "as-it-is" : "perceptual";
    const recipe = { ...link?.recipe, chooser, marks: [] } as Partial<Recipe> as Recipe;
    const painted = await inTurn(async ({ settle, change }) =>
      (await settle()) ? change({ kind: "reduce", picture, recipe }) : null,
    );
    if (painted) showPicture(picture);
    return painted !== null;
  };
}

/** Pictures of the shelf that the palette does not paint yet, and how to let it paint one. */
function usePainting() {
  const palette = usePalette();
  const paintWith = usePaint();
  const [painting, setPainting] = useState<string | null>(null);
  const { cards, field } = useShelfCards("pictures");
  const linked = new Set(palette.links.map((entry) => entry.picture.id));
  const others = (cards ?? []).filter((card) => !linked.has(card.id));
  const paint = async (picture: string) => {
    setPainting(picture);
    await paintWith(picture);
    setPainting(null);
  };
  return { others, field, paint, painting };
}

/** Pictures of the shelf; choosing one lays it out in the colors of the strip. */
export function ShelfPictures({ onDone }: { onDone?: () => void }) {
  const { others, field, paint, painting } = usePainting();
  return (
    <>
      {field}
      <ul aria-label="Pictures of the shelf" className="m-0 grid list-none gap-1 p-0">
        {others.map((card) => (
          <li key={card.id}>
            <button
              type="button"
              disabled={painting !== null}
              className="block w-full rounded p-1 hover:bg-ground"
              onClick={() => void paint(card.id).then(onDone)}
            >
              <Thumbnail picture={card} note={painting === card.id ? "laying out its pixels …" : undefined} />
            </button>
          </li>
        ))}
        {others.length === 0 && !field && (
          <li className="text-small text-quiet">No other picture is on the shelf. Drop one there first.</li>
        )}
      </ul>
    </>
  );
}

/** Which of the linked pictures is looked at. Further ones are linked, and taken off again, here. */
export function PictureChoice() {
  const palette = usePalette();
  const link = useLinked();
  const { settle, change, showPicture } = useCommands();
  const [open, setOpen] = useState(false);
  if (!link) return null;
  const place = palette.links.findIndex((entry) => entry.picture.id === link.picture.id) + 1;
  const several = palette.links.length > 1;
  const takeOff = async (picture: string) => {
    if (await settle()) await change({ kind: "unlink", picture });
  };
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger asChild>
        <button
          type="button"
          aria-label={`Picture: ${link.picture.name}${several ? ` ${place} of ${palette.links.length}` : ""}`}
          className="flex min-h-7 max-w-64 items-center gap-1.5 rounded-md border border-line bg-panel px-2.5 text-small hover:bg-raised"
        >
          <span className="truncate">{link.picture.name}</span>
          {several && (
            <span className="whitespace-nowrap text-quiet">{` ${place} of ${palette.links.length}`}</span>
          )}
          <span aria-hidden="true" className="text-tiny">
            ▾
          </span>
        </button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          onCloseAutoFocus={giveFocusBack}
          className={`${PANEL} w-80`}
          align="start"
          sideOffset={6}
          collisionPadding={10}
          aria-label="Pictures"
        >
          <p className="mb-1 text-small text-quiet">Painted with this palette</p>
          <ul aria-label="Linked pictures" className="m-0 grid list-none gap-1 p-0">
            {palette.links.map((entry) => (
              <li key={entry.picture.id} className="flex items-center gap-1">
                <button
                  type="button"
                  aria-pressed={entry.picture.id === link.picture.id}
                  className="min-w-0 grow rounded p-1 hover:bg-ground aria-pressed:bg-ground"
                  onClick={() => {
                    showPicture(entry.picture.id);
                    setOpen(false);
                  }}
                >
                  <Thumbnail picture={entry.picture} />
                </button>
                <TextButton
                  aria-label={`Take off ${entry.picture.name}`}
                  onClick={() => void takeOff(entry.picture.id)}
                >
                  Take off
                </TextButton>
              </li>
            ))}
          </ul>
          <p className="mt-3 mb-1 border-t border-line pt-2 text-small text-quiet">
            Paint another with the strip as it is
          </p>
          <ShelfPictures onDone={() => setOpen(false)} />
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
