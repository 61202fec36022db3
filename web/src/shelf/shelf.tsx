import { useInfiniteQuery, useQuery, useQueryClient } from "@tanstack/react-query";
import { lazy, Suspense, useCallback, useEffect, useMemo, useState } from "react";
import { navigate } from "wouter/use-browser-location";
import { createPalette } from "../api/commands";
import { ask, KEYS } from "../api/queries";
import type { CardOf, Cards, Looking } from "../api/shelf-queries";
import { inWords } from "../api/words";
import { ChooseFile, DropArea, DropHint } from "../imports/drop";
import { SurroundSwitch } from "../shell/header";
import { useScreen } from "../shell/store";
import { Button, TextButton } from "../ui/button";
import { CardGrid } from "../ui/card-grid";
import { MenuArea } from "../ui/menu";
import { useSettled } from "../ui/use-settled";
import { Count } from "./count";
import { PaletteRow } from "./palette-row";
import { PictureTile } from "./picture-tile";
import { RampRow } from "./ramp-row";
import { useSelection } from "./selection";
import { Usage } from "./usage";
import { useCardMenu } from "./use-card-menu";
import { Work } from "./work";

/** Cards of a kind, as far as they have come. Those of another search stay until the new ones are here, but not those of the trash. */
function useCards<Kind extends Cards>(kind: Kind, looking: Looking) {
  const query = useInfiniteQuery({
    ...ask.pages(kind, looking),
    placeholderData: (before, of) => (of && of.queryKey[2].trash === looking.trash ? before : undefined),
  });
  const pages = query.data?.pages;
  const cards = useMemo(() => {
    // A card that was changed between two pages may stand on both.
    const known = new Map<string, CardOf[Kind]>();
    for (const card of pages?.flatMap((page) => page.cards) ?? [])
      known.set("palette" in card ? `${card.palette} ${card.id}` : card.id, card);
    return [...known.values()];
  }, [pages]);
  const { fetchNextPage, hasNextPage, isFetching, isError } = query;
  /** Let more come, if there are more. What failed is asked for again by the artist alone. */
  const more = useCallback(() => {
    if (hasNextPage && !isFetching && !isError) void fetchNextPage();
  }, [fetchNextPage, hasNextPage, isFetching, isError]);
  const last = pages?.at(-1);
  return { query, cards, more, found: last?.found ?? 0, all: last?.all ?? 0 };
}

// What opens panels comes when it is wanted: the shelf itself is light.
const SelectionBar = lazy(() =>
  import("./selection-bar").then((loaded) => ({ default: loaded.SelectionBar })),
);
const EmptyTrash = lazy(() => import("./empty-trash").then((loaded) => ({ default: loaded.EmptyTrash })));
const AccountMenu = lazy(() => import("./account").then((loaded) => ({ default: loaded.AccountMenu })));
const LibraryMenu = lazy(() => import("./library-menu").then((loaded) => ({ default: loaded.LibraryMenu })));

/** So long after the last key is a search sent. */
const SETTLED_MS = 120;

function open(id: string) {
  navigate(`/palettes/${id}`);
}

/** The room of a button that has not come yet, so that what stands beside it stays where it is. */
function RoomFor({ words }: { words: string }) {
  return (
    <span className="invisible">
      <TextButton>{words}</TextButton>
    </span>
  );
}

/** Everything the artist owns. */
export function Shelf() {
  const [trash, setTrash] = useState(false);
  const [search, setSearch] = useState("");
  const [sorting, setSorting] = useState<Looking["sort"]>("newest");
  const sought = useSettled(search.trim(), search.trim() === "" ? 0 : SETTLED_MS);
  const looking = { q: sought, sort: sorting, trash };
  const shownPalettes = useCards("palettes", looking);
  const shownPictures = useCards("pictures", looking);
  const shownRamps = useCards("ramps", looking);
  const kinds = [shownPalettes, shownPictures, shownRamps];
  const session = useQuery(ask.session());
  const queries = useQueryClient();
  const say = useScreen((screen) => screen.say);
  useEffect(() => {
    document.title = "Shelf · Huvren";
  }, []);
  const begin = async () => {
    try {
      const palette = await createPalette({ name: "Untitled" });
      queries.setQueryData(KEYS.palette(palette.id), palette);
      open(palette.id);
    } catch (error) {
      say(inWords(error), { kind: "wrong" });
    }
  };
  const selection = useSelection();
  const [area, setArea] = useState<HTMLElement | null>(null);
  const palettes = shownPalettes.cards;
  const pictures = shownPictures.cards;
  const order = useMemo(
    () => [
      ...pictures.map((card) => `pictures/${card.id}`),
      ...palettes.map((card) => `palettes/${card.id}`),
    ],
    [pictures, palettes],
  );
  const menuOf = useCardMenu({ palettes, pictures }, trash, order);
  const isHere = kinds.every((kind) => kind.query.data);
  const error = kinds.find((kind) => kind.query.error)?.query.error;
  const isEmpty = isHere && shownPalettes.all + shownPictures.all === 0;
  const isEarlier = search.trim() !== sought || kinds.some((kind) => kind.query.isPlaceholderData);
  const { more, cards } = shownPalettes;
  const onWanted = useCallback(
    (count: number) => {
      if (count > cards.length) more();
    },
    [cards.length, more],
  );
  return (
    <DropArea>
      <div className="flex h-full flex-col">
        <header className="flex min-h-14 shrink-0 flex-wrap items-center gap-x-3 gap-y-1 border-b border-line px-6 py-1">
          <h1 className="text-title font-bold tracking-tight">Huvren</h1>
          <span className="text-label text-quiet">{trash ? "Trash" : "Shelf"}</span>
          {/* What has no width until it is known stands before the gap: nothing that arrives later may move a button under a hand. */}
          <Suspense fallback={<span className="px-1.5 text-small text-quiet">{session.data?.user}</span>}>
            {session.data && <AccountMenu name={session.data.user} />}
          </Suspense>
          <span className="grow" />
          <input
            type="search"
            aria-label="Search by name"
            title="Words of a name, a tag or a swatch’s name; tag:press, near #c48a3a within 5, >20 swatches, favorite"
            placeholder="Search: name, tag, near #c48a3a"
            value={search}
            onChange={(event) => setSearch(event.target.value)}
            className="h-8 w-64 rounded-md border border-ink bg-raised px-2.5 placeholder:text-quiet"
          />
          <select
            aria-label="Sort the shelf"
            className="h-8 rounded-md border border-line bg-transparent px-1.5 text-small"
            value={sorting}
            onChange={(event) => setSorting(event.target.value as Looking["sort"])}
          >
            <option value="newest" className="bg-raised">
              newest first
            </option>
            <option value="name" className="bg-raised">
              by name
            </option>
            <option value="count" className="bg-raised">
              most colors first
            </option>
          </select>
          <TextButton
            aria-pressed={trash}
            onClick={() => {
              setTrash(!trash);
              selection.end();
            }}
          >
            {trash ? "Back to the shelf" : "Trash"}
          </TextButton>
          {trash && (
            <span className={isHere && !isEmpty ? "" : "invisible"}>
              <Suspense fallback={<RoomFor words="Empty the trash" />}>
                <EmptyTrash />
              </Suspense>
            </span>
          )}
          <TextButton disabled={isEmpty || selection.chosen !== null} onClick={selection.begin}>
            Select
          </TextButton>
          {!trash && (
            <>
              <Button onClick={() => void begin()}>New palette</Button>
              <ChooseFile kind="any" label="Bring in files" />
            </>
          )}
          <Suspense fallback={<RoomFor words="Archive …" />}>
            <LibraryMenu />
          </Suspense>
          <SurroundSwitch />
        </header>
        {selection.chosen && (
          <Suspense>
            <SelectionBar trash={trash} sought={search.trim()} />
          </Suspense>
        )}
        <main
          ref={setArea}
          aria-busy={isEarlier}
          className={`min-h-0 grow overflow-y-auto px-6 pt-5 pb-10 ${isEarlier ? "opacity-70" : ""}`}
        >
          <MenuArea label="What can be done with this card" entriesOf={menuOf}>
            <div>
              {!isHere && !error && (
                <p role="status" className="text-quiet">
                  Looking at the shelf …
                </p>
              )}
              {error && (
                <div role="alert" className="sticky top-0 z-10 mb-3 max-w-md bg-ground py-2">
                  <p className="mb-3">{error.message}</p>
                  <Button onClick={() => void Promise.all(kinds.map((kind) => kind.query.refetch()))}>
                    Try again
                  </Button>
                </div>
              )}
              {isEmpty &&
                (trash ? (
                  <p className="text-quiet">
                    The trash is empty. What is put here is removed for good after{" "}
                    {session.data?.trash_days ?? 30} days.
                  </p>
                ) : (
                  <div className="grid h-full place-items-center">
                    <DropHint
                      title="Begin with a picture"
                      text="Drop a picture anywhere. Huvren reduces it to a short palette that you can refine, name and hand on. Palette files and any text with colors can be dropped as well."
                    />
                  </div>
                ))}
              {isHere && !isEmpty && !isEarlier && !error && kinds.every((kind) => kind.found === 0) && (
                <p role="status">
                  Nothing {trash ? "in the trash" : "on the shelf"} is like “{sought}”.
                </p>
              )}
              {!trash && <Work />}
              {pictures.length > 0 && (
                <section aria-labelledby="pictures" className="mb-8">
                  <h2 id="pictures" className="mb-3 text-label font-semibold">
                    Pictures <Count shown={shownPictures.found} all={shownPictures.all} />
                  </h2>
                  <ul className="m-0 grid list-none grid-cols-[repeat(auto-fill,minmax(180px,1fr))] gap-x-5 gap-y-5 p-0">
                    {pictures.map((card) => (
                      <PictureTile key={card.id} card={card} trash={trash} order={order} />
                    ))}
                  </ul>
                  {shownPictures.found > pictures.length && (
                    <p className="mt-3 text-small text-quiet">
                      And {(shownPictures.found - pictures.length).toLocaleString("en")} more.{" "}
                      <TextButton onClick={shownPictures.more}>Show more pictures</TextButton>
                    </p>
                  )}
                </section>
              )}
              {!trash && shownRamps.cards.length > 0 && (
                <RampRow ramps={shownRamps.cards} found={shownRamps.found} all={shownRamps.all} />
              )}
              {palettes.length > 0 && (
                <section aria-labelledby="palettes">
                  <h2 id="palettes" className="mb-3 text-label font-semibold">
                    Palettes <Count shown={shownPalettes.found} all={shownPalettes.all} />
                  </h2>
                  <CardGrid
                    items={palettes}
                    total={shownPalettes.found}
                    onWanted={onWanted}
                    scroll={area}
                    leastWidth={380}
                    height={122}
                    columnGap={32}
                    keyOf={(card) => card.id}
                  >
                    {(card) => <PaletteRow card={card} trash={trash} order={order} />}
                  </CardGrid>
                </section>
              )}
              {isHere && !isEmpty && <Usage />}
            </div>
          </MenuArea>
        </main>
      </div>
    </DropArea>
  );
}
