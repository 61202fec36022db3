import type { PaletteCard, PictureCard, RampCard } from "../api/types";

export type Sorting = "newest" | "name" | "count" | "near";

/** What is being looked for: words in names and tags, a count, favorites alone, and a color to be near to. */
export interface Wanted {
  words: string[];
  tags: string[];
  near: string | null;
  /** ΔE that a palette may be away from that color. */
  within: number;
  fewest: number;
  most: number;
  favorites: boolean;
}

const COLOR = /^(#[0-9a-f]{3,8}|[a-z]+\([^)]*\))$/i;

/** As far as two colors are still like each other; `within` says otherwise. */
const USUALLY_WITHIN = 10;

/** Read a search: `moth`, `tag:press`, `near #c48a3a`, `#c48a3a within 5`, `>20`, `<=8`, `favorite`. */
export function readSearch(text: string): Wanted {
  const wanted: Wanted = {
    words: [],
    tags: [],
    near: null,
    within: USUALLY_WITHIN,
    fewest: 0,
    most: Infinity,
    favorites: false,
  };
  const parts = text.match(/[a-z]+\([^)]*\)?|"[^"]*"|\S+/gi) ?? [];
  let expectsColor = false;
  let expectsDistance = false;
  for (const part of parts) {
    const count = /^(>=|<=|>|<|=)(\d+)$/.exec(part);
    if (expectsDistance && /^\d+([.,]\d+)?$/.test(part)) {
      wanted.within = Number(part.replace(",", "."));
      expectsDistance = false;
    } else if (part.toLowerCase() === "within") {
      expectsDistance = true;
    } else if (expectsColor || COLOR.test(part)) {
      wanted.near = part;
      expectsColor = false;
    } else if (part.toLowerCase() === "near") {
      expectsColor = true;
    } else if (count) {
      const number = Number(count[2]);
      if (count[1] === ">") wanted.fewest = number + 1;
      else if (count[1] === ">=") wanted.fewest = number;
      else if (count[1] === "<") wanted.most = number - 1;
      else if (count[1] === "<=") wanted.most = number;
      else wanted.fewest = wanted.most = number;
    } else if (/^tag:./i.test(part)) {
      wanted.tags.push(part.slice(4).replaceAll('"', "").toLowerCase());
    } else if (/^favorites?$/i.test(part)) {
      wanted.favorites = true;
    } else {
      wanted.words.push(part.replaceAll('"', "").toLowerCase());
    }
  }
  return wanted;
}

/** For each word, the palettes that have a swatch whose name holds it. */
export type Holding = ReadonlyMap<string, ReadonlySet<string>>;

function hasWords(name: string, tags: string[], words: string[], isHeld = (_word: string) => false) {
  return words.every(
    (word) =>
      name.toLowerCase().includes(word) ||
      tags.some((tag) => tag.toLowerCase().includes(word)) ||
      isHeld(word),
  );
}

function isNear(card: { near?: number | null }, wanted: Wanted) {
  return wanted.near === null || card.near == null || card.near <= wanted.within;
}

export function matchesPalette(card: PaletteCard, wanted: Wanted, holding: Holding = new Map()) {
  return (
    hasWords(card.name, card.tags, wanted.words, (word) => holding.get(word)?.has(card.id) ?? false) &&
    isNear(card, wanted) &&
    wanted.tags.every((tag) => card.tags.some((own) => own.toLowerCase().includes(tag))) &&
    card.count >= wanted.fewest &&
    card.count <= wanted.most &&
    (!wanted.favorites || card.favorite)
  );
}

/** Ramps have no count of swatches and are no favorites, so a search for these leaves them out. */
export function matchesRamp(card: RampCard, wanted: Wanted) {
  return (
    hasWords(card.name, card.tags, wanted.words) &&
    isNear(card, wanted) &&
    wanted.tags.every((tag) => card.tags.some((own) => own.toLowerCase().includes(tag))) &&
    wanted.fewest === 0 &&
    wanted.most === Infinity &&
    !wanted.favorites
  );
}

export function sortRamps(cards: RampCard[], sorting: Sorting, near: boolean): RampCard[] {
  if (near) return [...cards].sort((a, b) => (a.near ?? Infinity) - (b.near ?? Infinity));
  return sorting === "name"
    ? [...cards].sort((a, b) => a.name.localeCompare(b.name, "en", { numeric: true }))
    : cards;
}

/** Pictures have no swatches and no tags, so a search for these leaves them out. */
export function matchesPicture(card: PictureCard, wanted: Wanted) {
  return (
    hasWords(card.name, [], wanted.words) &&
    wanted.tags.length === 0 &&
    wanted.near === null &&
    wanted.fewest === 0 &&
    wanted.most === Infinity &&
    (!wanted.favorites || card.favorite)
  );
}

/** Favorites first, then as asked. A search for a color puts the nearest first whatever else is asked. */
export function sortPalettes(cards: PaletteCard[], sorting: Sorting, near: boolean): PaletteCard[] {
  const by: Record<Sorting, (a: PaletteCard, b: PaletteCard) => number> = {
    newest: () => 0,
    name: (a, b) => a.name.localeCompare(b.name, "en", { numeric: true }),
    count: (a, b) => b.count - a.count,
    near: (a, b) => (a.near ?? Infinity) - (b.near ?? Infinity),
  };
  if (near) return [...cards].sort(by.near);
  return [...cards].sort((a, b) => Number(b.favorite) - Number(a.favorite) || by[sorting](a, b));
}

export function sortPictures(cards: PictureCard[], sorting: Sorting): PictureCard[] {
  return [...cards].sort(
    (a, b) =>
      Number(b.favorite) - Number(a.favorite) ||
      (sorting === "name" ? a.name.localeCompare(b.name, "en", { numeric: true }) : 0) ||
      (sorting === "count" ? b.distinct - a.distinct : 0),
  );
}
