import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import { ask } from "../api/queries";
import type { Cards } from "../api/shelf-queries";
import type { PaletteCard } from "../api/types";
import { HexBand } from "../lens/chips";

/**
 * Cards of the shelf to choose from: those changed last, and where there are more of them a field that looks for the others.
 * always : what the server looks for besides what is typed.
 */
export function useShelfCards<Kind extends Cards>(kind: Kind, always = "") {
  const [typed, setTyped] = useState("");
  const page = useQuery({
    ...ask.cards(kind, `${always} ${typed}`.trim()),
    placeholderData: keepPreviousData,
  });
  const isLong = typed !== "" || (page.data && page.data.found > page.data.cards.length);
  const isNothing = typed !== "" && !page.isPlaceholderData && page.data?.found === 0;
  const field: ReactNode = isLong && (
    <>
      <input
        type="search"
        aria-label={`Search ${kind}`}
        placeholder={`Search ${page.data?.all.toLocaleString("en") ?? ""} ${kind}`}
        value={typed}
        onChange={(event) => setTyped(event.target.value)}
        className="mb-2 h-7 w-full max-w-72 rounded-md border border-ink bg-raised px-2 text-small placeholder:text-quiet"
      />
      {page.error && (
        <p role="alert" className="m-0 mb-2 text-small">
          {page.error.message}
        </p>
      )}
      {isNothing && (
        <p role="status" className="m-0 mb-2 text-small text-quiet">
          Nothing on the shelf is like “{typed}”.
        </p>
      )}
    </>
  );
  return { cards: page.data?.cards, field };
}

/** A palette of the shelf as the strip it is, to be chosen; `wide` over a view. */
export function PaletteChoice({
  card,
  isChosen,
  wide = false,
  onChoose,
}: {
  card: PaletteCard;
  isChosen?: boolean;
  wide?: boolean;
  onChoose: () => void;
}) {
  return (
    <button
      type="button"
      aria-pressed={isChosen}
      data-palette-card={card.id}
      data-palette-name={card.name}
      className="block w-full text-left outline-offset-2"
      onClick={onChoose}
    >
      <span className={`flex ${wide ? "h-9" : "h-5"} ${card.strip === "" ? "hatched" : ""}`}>
        <HexBand strip={card.strip} />
      </span>
      <span className={`block truncate text-small ${wide || isChosen ? "mt-1 font-semibold" : ""}`}>
        {card.name}{" "}
        <span className="font-normal text-quiet">
          {card.count}
          {wide && (card.count === 1 ? " swatch" : " swatches")}
        </span>
      </span>
    </button>
  );
}
