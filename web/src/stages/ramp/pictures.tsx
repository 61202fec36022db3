import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { ask } from "../../api/queries";
import type { PictureCard } from "../../api/types";
import { useLinked, usePalette } from "../../bench/context";
import { Thumbnail } from "../../bench/picture-choice";
import { PanelWord } from "../../ui/sentence";

/** Pictures to work with: those that the palette paints, then the others of the shelf; and the one that is chosen. */
export function usePictures() {
  const palette = usePalette();
  const link = useLinked();
  const shelf = useQuery(ask.shelf());
  const [chosen, setChosen] = useState<string | null>(null);
  const linked = new Set(palette.links.map((entry) => entry.picture.id));
  const pictures = [...(shelf.data?.pictures ?? [])].sort(
    (a, b) => Number(linked.has(b.id)) - Number(linked.has(a.id)),
  );
  const wanted = chosen ?? link?.picture.id;
  const picture = pictures.find((entry) => entry.id === wanted) ?? pictures[0];
  return { pictures, picture, choose: setChosen };
}

/** A word that chooses a picture of the shelf. */
export function PictureWord({
  pictures,
  picture,
  onChoose,
}: {
  pictures: PictureCard[];
  picture: PictureCard;
  onChoose: (id: string) => void;
}) {
  return (
    <PanelWord label="Picture" text={picture.name}>
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
