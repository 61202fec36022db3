import { useQuery, useQueryClient } from "@tanstack/react-query";
import { lazy, Suspense, useDeferredValue, useEffect, useState } from "react";
import { navigate } from "wouter/use-browser-location";
import { createPalette } from "../api/commands";
import { ask, KEYS } from "../api/queries";
import { inWords } from "../api/words";
import { ChooseFile, DropArea, DropHint } from "../imports/drop";
import { SurroundSwitch } from "../shell/header";
import { useScreen } from "../shell/store";
import { Button, TextButton } from "../ui/button";
import { CardGrid } from "../ui/card-grid";
import { MenuArea } from "../ui/menu";
import { Count } from "./count";
import { PaletteRow } from "./palette-row";
import { PictureTile } from "./picture-tile";
import { RampRow } from "./ramp-row";
import {
  matchesPalette,
  matchesPicture,
  matchesRamp,
  readSearch,
  type Sorting,
  sortPalettes,
  sortPictures,
  sortRamps,
} from "./search";
import { useSelection } from "./selection";
import { Usage } from "./usage";
import { useCardMenu } from "./use-card-menu";
import { Work } from "./work";

function useShelf(trash: boolean, near: string | null) {
  return useQuery({
    ...ask.shelf(trash, near),

    placeholderData: (before) => before,
  });
}

// What opens panels comes when it is wanted: the shelf itself is light.
const SelectionBar = lazy(() =>
  import("./selection-bar").then((loaded) => ({ default: loaded.SelectionBar })),
);
const EmptyTrash = lazy(() => import("./empty-trash").then((loaded) => ({ default: loaded.EmptyTrash })));
const AccountMenu = lazy(() => import("./account").then((loaded) => ({ default: loaded.AccountMenu })));
const LibraryMenu = lazy(() => import("./library-menu").then((loaded) => ({ default: loaded.LibraryMenu })));

function open(id: string) {
  navigate(`/palettes/${id}`);
}

/** Everything the artist owns. */
export function Shelf() {
  const [trash, setTrash] = useState(false);
  const [search, setSearch] = useState("");
  const [sorting, setSorting] = useState<Sorting>("newest");
  const wanted = readSearch(useDeferredValue(search));
  const shelf = useShelf(trash, wanted.near);
  const held = useQuery({ ...ask.holding(wanted.words, trash), placeholderData: (before) => before });
  const holding = new Map((held.data ?? []).map((entry) => [entry.word, new Set(entry.palettes)]));
  const session = useQuery({
    ...ask.session(),
  });
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
  const palettes = sortPalettes(
    (shelf.data?.palettes ?? []).filter((card) => matchesPalette(card, wanted, holding)),
    sorting,
    wanted.near !== null && !shelf.error,
  );
  const pictures = sortPictures(
    (shelf.data?.pictures ?? []).filter((card) => matchesPicture(card, wanted)),
    sorting,
  );
  const ramps = sortRamps(
    (shelf.data?.ramps ?? []).filter((card) => matchesRamp(card, wanted)),
    sorting,
    wanted.near !== null && !shelf.error,
  );
  const order = [...pictures, ...palettes].map((card) => card.id);
  const menuOf = useCardMenu(shelf.data, trash, order);
  const isEmpty = shelf.data && shelf.data.palettes.length + shelf.data.pictures.length === 0;
  return (
    <DropArea>
      <div className="flex h-full flex-col">
        <header className="flex min-h-14 shrink-0 flex-wrap items-center gap-x-3 gap-y-1 border-b border-line px-6 py-1">
          <h1 className="text-title font-bold tracking-tight">Huvren</h1>
          <span className="text-label text-quiet">{trash ? "Trash" : "Shelf"}</span>
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
            onChange={(event) => setSorting(event.target.value as Sorting)}
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
          {trash && shelf.data && !isEmpty && (
            <Suspense>
              <EmptyTrash />
            </Suspense>
          )}
          {!isEmpty && !selection.chosen && <TextButton onClick={selection.begin}>Select</TextButton>}
          {!trash && (
            <>
              <Button onClick={() => void begin()}>New palette</Button>
              <ChooseFile kind="any" label="Bring in files" />
            </>
          )}
          <Suspense fallback={<span className="w-16" />}>
            <LibraryMenu />
          </Suspense>
          <Suspense fallback={<span className="px-1.5 text-small text-quiet">{session.data?.user}</span>}>
            {session.data && <AccountMenu name={session.data.user} />}
          </Suspense>
          {/* Last, where nothing that arrives later can move it under a hand. */}
          <SurroundSwitch />
        </header>
        {selection.chosen && (
          <Suspense>
            <SelectionBar
              trash={trash}
              palettes={palettes.map((card) => card.id)}
              pictures={pictures.map((card) => card.id)}
            />
          </Suspense>
        )}
        <main ref={setArea} className="min-h-0 grow overflow-y-auto px-6 pt-5 pb-10">
          <MenuArea label="What can be done with this card" entriesOf={menuOf}>
            <div>
              {shelf.isPending && (
                <p role="status" className="text-quiet">
                  Looking at the shelf …
                </p>
              )}
              {shelf.error && (
                <div role="alert" className="max-w-md">
                  <p className="mb-3">{shelf.error.message}</p>
                  <Button onClick={() => shelf.refetch()}>Try again</Button>
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
                      text="Drop a PNG, JPEG, WebP or GIF anywhere. Huvren reduces it to a short palette that you can refine, name and hand on. Palette files and any text with colors can be dropped as well."
                    />
                  </div>
                ))}
              {shelf.data && !isEmpty && palettes.length + pictures.length + ramps.length === 0 && (
                <p role="status">
                  Nothing {trash ? "in the trash" : "on the shelf"} is like “{search}”.
                </p>
              )}
              {!trash && <Work />}
              {pictures.length > 0 && (
                <section aria-labelledby="pictures" className="mb-8">
                  <h2 id="pictures" className="mb-3 text-label font-semibold">
                    Pictures <Count shown={pictures.length} all={shelf.data?.pictures.length ?? 0} />
                  </h2>
                  <ul className="m-0 grid list-none grid-cols-[repeat(auto-fill,minmax(180px,1fr))] gap-x-5 gap-y-5 p-0">
                    {pictures.map((card) => (
                      <PictureTile key={card.id} card={card} trash={trash} order={order} />
                    ))}
                  </ul>
                </section>
              )}
              {!trash && ramps.length > 0 && <RampRow ramps={ramps} all={shelf.data?.ramps.length ?? 0} />}
              {palettes.length > 0 && (
                <section aria-labelledby="palettes">
                  <h2 id="palettes" className="mb-3 text-label font-semibold">
                    Palettes <Count shown={palettes.length} all={shelf.data?.palettes.length ?? 0} />
                  </h2>
                  <CardGrid
                    items={palettes}
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
              {shelf.data && !isEmpty && <Usage />}
            </div>
          </MenuArea>
        </main>
      </div>
    </DropArea>
  );
}
