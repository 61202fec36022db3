import { navigate } from "wouter/use-browser-location";
import type { RampCard } from "../api/types";
import { PaletteChoice, useShelfCards } from "../cards/shelf-cards";
import { ActionPanel } from "../ui/sentence";

function Targets({ card }: { card: RampCard }) {
  const { cards = [], field } = useShelfCards("palettes");
  return (
    <>
      <p className="mb-1.5 text-small text-quiet">Take “{card.name}” into</p>
      {field}
      <ul
        aria-label="Palettes to take it into"
        className="m-0 grid max-h-80 list-none gap-2 overflow-y-auto p-0.5"
      >
        {cards
          .filter((entry) => entry.id !== card.palette)
          .map((entry) => (
            <li key={entry.id}>
              <PaletteChoice
                card={entry}
                onChoose={() => navigate(`/palettes/${entry.id}?stage=ramp&take=${card.palette}_${card.id}`)}
              />
            </li>
          ))}
      </ul>
    </>
  );
}

/** Which palette a ramp goes into; its bench then asks whether the swatches that it follows come along. */
export function TakeRamp({ card }: { card: RampCard }) {
  return (
    <ActionPanel label="Take …" className="text-quiet">
      {() => <Targets card={card} />}
    </ActionPanel>
  );
}
