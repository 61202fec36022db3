import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { client, type PaletteCard, type PictureCard, unwrap } from "../api/client";
import { paletteKey } from "../api/palette";
import { SurroundSwitch } from "../shell/header";
import { go } from "../shell/path";
import { useScreen } from "../shell/store";
import { Button, TextButton } from "../ui/button";
import { ChooseFile, DropArea, DropHint } from "./drop";

const DAY = new Intl.DateTimeFormat("en", {
  day: "numeric",
  month: "short",
  hour: "2-digit",
  minute: "2-digit",
  hour12: false,
});

function useShelf(trash: boolean) {
  return useQuery({
    queryKey: ["shelf", trash],
    queryFn: () => unwrap(client.GET("/api/shelf", { params: { query: { trash } } })),
  });
}

function open(id: string) {
  go(`/palettes/${id}`);
}

function useTrash() {
  const queries = useQueryClient();
  const say = useScreen((screen) => screen.say);
  const send = async (kind: "palettes" | "pictures", id: string, restore: boolean) => {
    try {
      if (kind === "palettes") {
        const params = { path: { palette_id: id } };
        if (restore) await unwrap(client.POST("/api/palettes/{palette_id}/restore", { params }));
        else await unwrap(client.DELETE("/api/palettes/{palette_id}", { params }));
      } else {
        const params = { path: { picture_id: id } };
        if (restore) await unwrap(client.POST("/api/pictures/{picture_id}/restore", { params }));
        else await unwrap(client.DELETE("/api/pictures/{picture_id}", { params }));
      }
      await queries.invalidateQueries({ queryKey: ["shelf"] });
    } catch (error) {
      say(error instanceof Error ? error.message : String(error), { kind: "wrong" });
    }
  };
  return async (kind: "palettes" | "pictures", id: string, name: string, restore: boolean) => {
    await send(kind, id, restore);
    if (!restore)
      say(`“${name}” is in the trash.`, {
        action: { label: "Put it back", run: () => void send(kind, id, true) },
      });
  };
}

function PaletteRow({ card, trash }: { card: PaletteCard; trash: boolean }) {
  const throwAway = useTrash();
  return (
    <li className="group relative">
      <button
        type="button"
        disabled={trash}
        onClick={() => open(card.id)}
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
        <span className="mt-1.5 flex items-baseline gap-2 pr-16">
          <span className="min-w-0 truncate text-[15px] font-semibold group-hover:underline">
            {card.name}
          </span>
          <span className="shrink-0 text-[13px] text-quiet">
            {card.count === 1 ? "1 swatch" : `${card.count} swatches`} · {DAY.format(new Date(card.updated))}
          </span>
        </span>
      </button>
      <TextButton
        className="absolute right-0 bottom-[-3px] text-quiet opacity-0 group-hover:opacity-100 focus-visible:opacity-100"
        aria-label={`${trash ? "Put back" : "Trash"} ${card.name}`}
        style={trash ? { opacity: 1 } : undefined}
        onClick={() => void throwAway("palettes", card.id, card.name, trash)}
      >
        {trash ? "Put back" : "Trash"}
      </TextButton>
    </li>
  );
}

function PictureTile({ card, trash }: { card: PictureCard; trash: boolean }) {
  const throwAway = useTrash();
  const queries = useQueryClient();
  const say = useScreen((screen) => screen.say);
  const begin = async () => {
    const known = card.palettes[0];
    if (known) return open(known);
    try {
      const palette = await unwrap(
        client.POST("/api/palettes", {
          body: {
            picture: card.id,
          },
        }),
      );
      queries.setQueryData(paletteKey(palette.id), palette);
      open(palette.id);
    } catch (error) {
      say(error instanceof Error ? error.message : String(error), { kind: "wrong" });
    }
  };
  return (
    <li className="group relative min-w-0">
      <button
        type="button"
        disabled={trash}
        onClick={() => void begin()}
        className="block w-full text-left outline-offset-4"
      >
        <span className="block aspect-[3/2] overflow-hidden bg-well">
          <img
            src={`/api/pictures/${card.id}/thumbnail`}
            alt=""
            loading="lazy"
            className="size-full object-cover"
          />
        </span>
        <span className="mt-1.5 block truncate text-[14px] font-semibold group-hover:underline">
          {card.name}
        </span>
        <span className="block text-[13px] text-quiet">
          {card.width} × {card.height} · {card.distinct.toLocaleString("en")} colors
        </span>
      </button>
      <TextButton
        className="absolute top-1 right-1 bg-ground opacity-0 group-hover:opacity-100 focus-visible:opacity-100"
        aria-label={`${trash ? "Put back" : "Trash"} ${card.name}`}
        style={trash ? { opacity: 1 } : undefined}
        onClick={() => void throwAway("pictures", card.id, card.name, trash)}
      >
        {trash ? "Put back" : "Trash"}
      </TextButton>
    </li>
  );
}

/** Everything the artist owns. */
export function Shelf() {
  const [trash, setTrash] = useState(false);
  const [search, setSearch] = useState("");
  const shelf = useShelf(trash);
  const session = useQuery({
    queryKey: ["session"],
    queryFn: () => unwrap(client.GET("/api/session")),
    staleTime: Infinity,
  });
  const queries = useQueryClient();
  const say = useScreen((screen) => screen.say);
  useEffect(() => {
    document.title = "Shelf · Huvren";
  }, []);
  const begin = async () => {
    try {
      const palette = await unwrap(
        client.POST("/api/palettes", {
          body: {
            name: "Untitled",
          },
        }),
      );
      queries.setQueryData(paletteKey(palette.id), palette);
      open(palette.id);
    } catch (error) {
      say(error instanceof Error ? error.message : String(error), { kind: "wrong" });
    }
  };
  const wanted = search.trim().toLowerCase();
  const palettes = (shelf.data?.palettes ?? []).filter((card) => card.name.toLowerCase().includes(wanted));
  const pictures = (shelf.data?.pictures ?? []).filter((card) => card.name.toLowerCase().includes(wanted));
  const isEmpty = shelf.data && shelf.data.palettes.length + shelf.data.pictures.length === 0;
  return (
    <DropArea>
      <div className="flex h-full flex-col">
        <header className="flex h-14 shrink-0 items-center gap-3 border-b border-line px-6">
          <h1 className="text-[17px] font-bold tracking-tight">Huvren</h1>
          <span className="text-[15px] text-quiet">{trash ? "Trash" : "Shelf"}</span>
          <span className="grow" />
          <input
            type="search"
            aria-label="Search by name"
            placeholder="Search by name"
            value={search}
            onChange={(event) => setSearch(event.target.value)}
            className="h-8 w-52 rounded-md border border-ink bg-raised px-2.5 placeholder:text-quiet"
          />
          <TextButton aria-pressed={trash} onClick={() => setTrash(!trash)}>
            {trash ? "Back to the shelf" : "Trash"}
          </TextButton>
          {!trash && (
            <>
              <Button onClick={() => void begin()}>New palette</Button>
              <ChooseFile kind="any" label="Bring in files" />
            </>
          )}
          <SurroundSwitch />
          <span className="text-[13px] text-quiet">{session.data?.user}</span>
        </header>
        <main className="min-h-0 grow overflow-y-auto px-6 pt-5 pb-10">
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
              <p className="text-quiet">The trash is empty.</p>
            ) : (
              <div className="grid h-full place-items-center">
                <DropHint
                  title="Begin with a picture"
                  text="Drop a PNG, JPEG, WebP or GIF anywhere. Huvren reduces it to a short palette that you can refine, name and hand on. Palette files and any text with colors can be dropped as well."
                />
              </div>
            ))}
          {shelf.data && !isEmpty && palettes.length + pictures.length === 0 && (
            <p role="status">
              Nothing on the {trash ? "trash pile" : "shelf"} is called “{search}”.
            </p>
          )}
          {pictures.length > 0 && (
            <section aria-labelledby="pictures" className="mb-8">
              <h2 id="pictures" className="mb-3 text-[15px] font-semibold">
                Pictures
              </h2>
              <ul className="m-0 grid list-none grid-cols-[repeat(auto-fill,minmax(215px,1fr))] gap-x-5 gap-y-5 p-0">
                {pictures.map((card) => (
                  <PictureTile key={card.id} card={card} trash={trash} />
                ))}
              </ul>
            </section>
          )}
          {palettes.length > 0 && (
            <section aria-labelledby="palettes">
              <h2 id="palettes" className="mb-3 text-[15px] font-semibold">
                Palettes
              </h2>
              <ul className="m-0 grid list-none grid-cols-[repeat(auto-fill,minmax(380px,1fr))] gap-x-8 gap-y-5 p-0">
                {palettes.map((card) => (
                  <PaletteRow key={card.id} card={card} trash={trash} />
                ))}
              </ul>
            </section>
          )}
        </main>
      </div>
    </DropArea>
  );
}
