import { useQuery } from "@tanstack/react-query";
import { navigate } from "wouter/use-browser-location";
import { ask } from "../api/queries";
import type { RampCard } from "../api/types";
import { HexBand } from "../lens/chips";
import { ActionPanel } from "../ui/sentence";

/** Which palette a ramp goes into; its bench then asks whether the swatches that it follows come along. */
export function TakeRamp({ card }: { card: RampCard }) {
  const shelf = useQuery(ask.shelf());
  const palettes = (shelf.data?.palettes ?? []).filter((entry) => entry.id !== card.palette);
  return (
    <ActionPanel label="Take …" className="text-quiet">
      {() => (
        <>
          <p className="mb-1.5 text-small text-quiet">Take “{card.name}” into</p>
          <ul
            aria-label="Palettes to take it into"
            className="m-0 grid max-h-80 list-none gap-2 overflow-y-auto p-0.5"
          >
            {palettes.map((entry) => (
              <li key={entry.id}>
                <button
                  type="button"
                  className="block w-full text-left outline-offset-2"
                  onClick={() => navigate(`/palettes/${entry.id}?stage=ramp&take=${card.palette}_${card.id}`)}
                >
                  <span className={`flex h-5 ${entry.strip === "" ? "hatched" : ""}`}>
                    <HexBand strip={entry.strip} />
                  </span>
                  <span className="block truncate text-small">{entry.name}</span>
                </button>
              </li>
            ))}
          </ul>
        </>
      )}
    </ActionPanel>
  );
}
