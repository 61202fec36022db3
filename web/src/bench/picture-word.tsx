import { useQuery } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { create } from "zustand";
import { ask } from "../api/queries";
import type { PictureCard } from "../api/types";
import { useShelfCards } from "../cards/shelf-cards";
import { PictureArea } from "../picture/picture-area";
import { Thumbnail } from "../picture/thumbnail";
import { useOriginal } from "../picture/use-painted";
import type { View } from "../picture/view";
import { PanelWord } from "../ui/sentence";
import { useLinked, usePalette } from "./context";

/** What is shown of a picture, on the shelf or linked to a palette. */
type Facts = Pick<PictureCard, "id" | "name" | "width" | "height">;

/** The picture that each palette works with, once one was chosen; it stays chosen from view to view. */
export const useAskedPicture = create<{
  asked: Record<string, string>;
  ask: (palette: string, picture: string) => void;
}>((set, get) => ({
  asked: {},
  ask: (palette, picture) => set({ asked: { ...get().asked, [palette]: picture } }),
}));

/** Pictures to work with: those that the palette paints, then others of the shelf; and the one that is chosen. */
export function usePictures() {
  const palette = usePalette();
  const link = useLinked();
  const shelf = useShelfCards("pictures");
  const chosen = useAskedPicture((state) => state.asked[palette.id] ?? null);
  const askFor = useAskedPicture((state) => state.ask);
  const linked: Facts[] = palette.links.map((entry) => entry.picture);
  const cards: Facts[] = shelf.cards ?? [];
  const pictures = [...linked, ...cards.filter((card) => !linked.some((entry) => entry.id === card.id))];
  const here = pictures.find((entry) => entry.id === (chosen ?? link?.picture.id));
  const named = useQuery(ask.named("pictures", chosen && !here ? [chosen] : []));
  const picture =
    here ?? (chosen ? named.data?.find((entry) => entry.id === chosen) : link?.picture) ?? pictures[0];
  return { pictures, field: shelf.field, picture, choose: (id: string) => askFor(palette.id, id) };
}

/** A word that chooses a picture of the shelf. */
export function PictureWord({
  pictures,
  field,
  picture,
  onChoose,
}: {
  pictures: Facts[];
  /** Where others are looked for. */
  field: ReactNode;
  picture: Facts;
  onChoose: (id: string) => void;
}) {
  return (
    <PanelWord label="Picture" text={picture.name}>
      {field}
      <ul aria-label="Pictures" className="m-0 grid list-none gap-1 p-0">
        {pictures.map((entry) => (
          <li key={entry.id}>
            <button
              type="button"
              aria-pressed={entry.id === picture.id}
              className="block w-full rounded p-1 hover:bg-ground aria-pressed:bg-ground"
              onClick={() => onChoose(entry.id)}
            >
              <Thumbnail picture={entry} />
            </button>
          </li>
        ))}
      </ul>
    </PanelWord>
  );
}

/** A picture of the shelf by itself, with a layer over it that reads from it. */
export function OriginalArea({
  picture,
  reading = "",
  children,
}: {
  picture: Facts;
  reading?: string;
  children: (view: View) => ReactNode;
}) {
  const original = useOriginal(picture.id);
  return (
    <PictureArea
      name={picture.name}
      width={picture.width}
      height={picture.height}
      original={original}
      result={null}
      version={0}
      sides={["original", reading]}
    >
      {children}
    </PictureArea>
  );
}
