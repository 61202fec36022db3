import type { PaletteCard } from "../api/client";
import { go } from "../shell/path";
import { TextButton } from "../ui/button";
import { SelectMark } from "./check";
import { useSelection } from "./selection";
import { useTrash } from "./use-trash";

const DAY = new Intl.DateTimeFormat("en", {
  day: "numeric",
  month: "short",
  hour: "2-digit",
  minute: "2-digit",
  hour12: false,
});

/** A palette as its strip. */
export function PaletteRow({ card, trash }: { card: PaletteCard; trash: boolean }) {
  const throwAway = useTrash().one;
  const { chosen, toggle } = useSelection();
  return (
    <li className="group relative">
      <button
        type="button"
        disabled={trash}
        aria-pressed={chosen ? chosen.has(card.id) : undefined}
        onClick={() => (chosen ? toggle(card.id) : go(`/palettes/${card.id}`))}
        className="block w-full text-left outline-offset-4"
      >
        <span className="flex h-14 overflow-hidden">
          {card.hexes.length === 0 ? (
            <span className="hatched grow" />
          ) : (
            card.hexes.map((hex, place) => (
              <span
                // biome-ignore lint/suspicious/noArrayIndexKey: the strip's own order is the identity here
                key={place}
                className={`grow ${hex.endsWith("00") && hex.length === 9 ? "checkered" : ""}`}
                style={hex.length === 9 && hex.endsWith("00") ? undefined : { background: hex }}
              />
            ))
          )}
        </span>
        {chosen && <SelectMark on={chosen.has(card.id)} />}
        <span className="mt-1.5 flex items-baseline gap-2 pr-16">
          <span className="min-w-0 truncate text-[15px] font-semibold group-hover:underline">
            {card.name}
          </span>
          <span className="shrink-0 text-[13px] text-quiet">
            {card.count === 1 ? "1 swatch" : `${card.count} swatches`} · {DAY.format(new Date(card.updated))}
          </span>
        </span>
      </button>
      {!chosen && (
        <TextButton
          className="absolute right-0 bottom-[-3px] text-quiet opacity-0 group-hover:opacity-100 focus-visible:opacity-100"
          aria-label={`${trash ? "Put back" : "Trash"} ${card.name}`}
          style={trash ? { opacity: 1 } : undefined}
          onClick={() => void throwAway("palettes", card.id, card.name, trash)}
        >
          {trash ? "Put back" : "Trash"}
        </TextButton>
      )}
    </li>
  );
}
