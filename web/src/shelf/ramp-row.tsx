import { lazy, Suspense } from "react";
import { navigate } from "wouter/use-browser-location";
import type { RampCard } from "../api/types";
import { HexBand } from "../lens/chips";
import { Count } from "./count";

// What opens panels comes when it is wanted.
const Uses = lazy(() => import("./uses").then((loaded) => ({ default: loaded.Uses })));
const TakeRamp = lazy(() => import("./take-ramp").then((loaded) => ({ default: loaded.TakeRamp })));

/** Kept ramps as the strips they are; a press opens the palette that keeps one, at that ramp. */
export function RampRow({ ramps, found, all }: { ramps: RampCard[]; found: number; all: number }) {
  return (
    <section aria-labelledby="ramps" className="mb-8">
      <h2 id="ramps" className="mb-3 text-label font-semibold">
        Ramps <Count shown={found} all={all} />
      </h2>
      <ul className="m-0 grid list-none grid-cols-[repeat(auto-fill,minmax(180px,1fr))] gap-x-5 gap-y-3.5 p-0">
        {ramps.map((card) => (
          <li key={`${card.palette}-${card.id}`} className="group relative">
            <button
              type="button"
              data-ramp-card={card.id}
              data-palette={card.palette}
              className="block w-full text-left outline-offset-4"
              title={`${card.name}, kept with ${card.palette_name}${card.tags.length ? `: ${card.tags.join(", ")}` : ""}`}
              onClick={() => navigate(`/palettes/${card.palette}?stage=ramp&ramp=${card.id}`)}
            >
              <span className="checkered flex h-8 overflow-hidden">
                <HexBand strip={card.strip} />
              </span>
              <span className="mt-1 block truncate font-semibold group-hover:underline">{card.name}</span>
              <span className="block truncate text-small text-quiet">
                {card.near === null ? card.palette_name : `nearest ΔE ${card.near.toFixed(1)}`}
                {card.tags.length > 0 && ` · ${card.tags.join(", ")}`}
              </span>
            </button>
            <span className="absolute right-0 -bottom-1 bg-ground opacity-0 group-hover:opacity-100 focus-within:opacity-100 has-data-[state=open]:opacity-100">
              <Suspense>
                <Uses kind="ramps" id={card.id} name={card.name} />
                <TakeRamp card={card} />
              </Suspense>
            </span>
          </li>
        ))}
      </ul>
      {found > ramps.length && (
        <p className="mt-2 text-small text-quiet">
          And {(found - ramps.length).toLocaleString("en")} more; search for them by name, tag or color.
        </p>
      )}
    </section>
  );
}
