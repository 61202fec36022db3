import { lazy, memo, Suspense } from "react";
import { navigate } from "wouter/use-browser-location";
import type { PaletteCard } from "../api/types";
import { HexBand } from "../lens/chips";
import { TextButton } from "../ui/button";
import { SelectMark } from "./check";
import { useSelection } from "./selection";
import { StarButton } from "./star";
import { useCardActions } from "./use-cards";
import { useTrash } from "./use-trash";

const DAY = new Intl.DateTimeFormat("en", {
  day: "numeric",
  month: "short",
  hour: "2-digit",
  minute: "2-digit",
  hour12: false,
});

// What opens panels comes when it is wanted.
const Uses = lazy(() => import("./uses").then((loaded) => ({ default: loaded.Uses })));

/** A palette as its strip; drawn again only when its card changes, however the shelf is scrolled. */
export const PaletteRow = memo(function PaletteRow({
  card,
  trash,
  order,
}: {
  card: PaletteCard;
  trash: boolean;
  /** The keys of all cards as they are shown, for a range of them. */
  order: readonly string[];
}) {
  const throwAway = useTrash().one;
  const { favor, duplicate } = useCardActions();
  const { chosen, press } = useSelection();
  const key = `palettes/${card.id}`;
  return (
    <>
      <button
        type="button"
        disabled={trash && !chosen}
        aria-pressed={chosen ? chosen.has(key) : undefined}
        data-card={card.id}
        onClick={(event) => {
          const adds = event.shiftKey || event.ctrlKey || event.metaKey;
          if (chosen || adds) press(key, order, event.shiftKey);
          else navigate(`/palettes/${card.id}`);
        }}
        className="block w-full text-left outline-offset-4"
      >
        <span className="flex h-14 overflow-hidden">
          {card.strip === "" ? <span className="hatched grow" /> : <HexBand strip={card.strip} />}
        </span>
        {chosen && <SelectMark on={chosen.has(key)} />}
        <span className="mt-1.5 block truncate pr-56 text-label font-semibold group-hover:underline">
          {card.name}
        </span>
        <span className="block truncate text-small text-quiet">
          {card.count === 1 ? "1 swatch" : `${card.count} swatches`} ·{" "}
          {card.near === null ? DAY.format(new Date(card.updated)) : `nearest ΔE ${card.near.toFixed(1)}`}
          {card.tags.length > 0 && ` · ${card.tags.join(", ")}`}
        </span>
      </button>
      {!chosen && (
        <span className="absolute top-[60px] right-0 flex items-center">
          {!trash && (
            <>
              <StarButton
                name={card.name}
                favorite={card.favorite}
                onTurn={() => void favor("palettes", card.id, !card.favorite)}
              />
              <span className="opacity-0 group-hover:opacity-100 focus-within:opacity-100 has-data-[state=open]:opacity-100">
                <Suspense>
                  <Uses kind="palettes" id={card.id} name={card.name} />
                </Suspense>
              </span>
              <TextButton
                className="text-quiet opacity-0 group-hover:opacity-100 focus-visible:opacity-100"
                aria-label={`Duplicate ${card.name}`}
                onClick={() => void duplicate(card.id)}
              >
                Duplicate
              </TextButton>
            </>
          )}
          <TextButton
            className={`text-quiet ${trash ? "" : "opacity-0 group-hover:opacity-100 focus-visible:opacity-100"}`}
            aria-label={`${trash ? "Put back" : "Trash"} ${card.name}`}
            onClick={() => void throwAway("palettes", card.id, card.name, trash)}
          >
            {trash ? "Put back" : "Trash"}
          </TextButton>
        </span>
      )}
    </>
  );
});
