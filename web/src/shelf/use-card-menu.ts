import { navigate } from "wouter/use-browser-location";
import type { PaletteCard, PictureCard } from "../api/types";
import type { MenuEntry } from "../ui/menu";
import { useSelection } from "./selection";
import { useCardActions } from "./use-cards";
import { useTrash } from "./use-trash";

/** What can be done with the card that was pressed. */
export function useCardMenu(
  shown: { palettes: readonly PaletteCard[]; pictures: readonly PictureCard[] },
  isTrash: boolean,
  order: readonly string[],
) {
  const throwAway = useTrash().one;
  const { favor, duplicate } = useCardActions();
  return (target: HTMLElement): MenuEntry[] => {
    const ramp = target.closest("li")?.querySelector<HTMLElement>("[data-ramp-card]")?.dataset;
    if (ramp?.rampCard) {
      const { rampCard, palette } = ramp;
      return [
        {
          label: "Open it",
          keys: "Enter",
          run: () => navigate(`/palettes/${palette}?stage=ramp&ramp=${rampCard}`),
        },
        { label: "Open its palette", run: () => navigate(`/palettes/${palette}`) },
      ];
    }
    const id = target.closest("li")?.querySelector<HTMLElement>("[data-card]")?.dataset.card;
    const palette = shown.palettes.find((card) => card.id === id);
    const picture = shown.pictures.find((card) => card.id === id);
    const card = palette ?? picture;
    if (!card) return [];
    const kind = palette ? "palettes" : "pictures";
    if (isTrash) return [{ label: "Put back", run: () => void throwAway(kind, card.id, card.name, true) }];
    const opens = palette?.id ?? picture?.palettes[0];
    return [
      ...(opens
        ? [
            {
              label: "Open it",
              keys: "Enter",
              run: () => navigate(`/palettes/${opens}${picture ? `?picture=${picture.id}` : ""}`),
            },
          ]
        : []),
      {
        label: card.favorite ? "No favorite any more" : "Make it a favorite",
        run: () => void favor(kind, card.id, !card.favorite),
      },
      {
        label: "Select it",
        keys: "Ctrl click",
        run: () => useSelection.getState().press(`${kind}/${card.id}`, order, false),
      },
      ...(palette ? [{ label: "Duplicate", run: () => void duplicate(palette.id) }] : []),
      null,
      { label: "Trash", run: () => void throwAway(kind, card.id, card.name, false) },
    ];
  };
}
