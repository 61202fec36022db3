import { useQuery } from "@tanstack/react-query";
import { Download } from "lucide-react";
import { useState } from "react";
import { client, type FormatChoice, unwrap } from "../../api/client";
import { useBench } from "../../bench/context";
import { useScreen } from "../../shell/store";
import { Button } from "../../ui/button";
import { Sentence } from "../../ui/sentence";

const WORDS: Record<string, string> = { ids: "identities", locks: "locks", alpha: "alpha" };

function said(things: string[]) {
  return things.map((thing) => WORDS[thing] ?? thing).join(", ");
}

function TextPreview({ format }: { format: FormatChoice }) {
  const { palette } = useBench();
  const query = useQuery({
    queryKey: ["file-text", palette.id, palette.revision, format.id],
    queryFn: () =>
      unwrap(
        client.GET("/api/palettes/{palette_id}/files/{format_id}/text", {
          params: { path: { palette_id: palette.id, format_id: format.id } },
        }),
      ),
  });
  if (query.error) return <p role="alert">{query.error.message}</p>;
  return (
    <pre
      role="document"
      // biome-ignore lint/a11y/noNoninteractiveTabindex: a scrolling text must be reachable by keyboard
      tabIndex={0}
      aria-label={`Beginning of the ${format.ending} file`}
      className="m-0 h-full overflow-auto bg-panel p-3 text-[13px] leading-relaxed"
    >
      {query.data?.text ?? "Writing the file …"}
    </pre>
  );
}

/** Hand the palette and the picture on. */
export function DeliverStage() {
  const { palette, menus, recipe, keep, keeping, shown } = useBench();
  const say = useScreen((screen) => screen.say);
  const [chosen, setChosen] = useState(menus.formats[0]?.id ?? "");
  const link = palette.links[0];
  const format = menus.formats.find((entry) => entry.id === chosen) ?? menus.formats[0];
  if (!format) return <p>No format can be written.</p>;
  const address = (entry: FormatChoice) =>
    `/api/palettes/${palette.id}/files/${entry.id}${entry.needs_picture && link ? `?picture=${link.picture.id}` : ""}`;
  const blocked = format.needs_picture && !link;
  const dropped = [
    ...(format.drops.includes("names") ? [] : []),
    ...format.drops.filter((thing) => thing !== "groups" || palette.groups.length > 0),
  ]
    .filter((thing) => thing !== "locks" || shown.some((swatch) => swatch.locked))
    .filter((thing) => thing !== "alpha" || shown.some((swatch) => swatch.alpha < 1));
  const download = async () => {
    if (recipe && !(await keep())) return;
    const response = await fetch(address(format));
    if (!response.ok) {
      const body = (await response.json().catch(() => null)) as { message?: string } | null;
      say(body?.message ?? `The file could not be written (${response.status}).`, { kind: "wrong" });
      return;
    }
    const name = /filename\*=UTF-8''([^;]+)/.exec(response.headers.get("Content-Disposition") ?? "")?.[1];
    const place = document.createElement("a");
    place.href = URL.createObjectURL(await response.blob());
    place.download = name ? decodeURIComponent(name) : `palette${format.ending}`;
    place.click();
    setTimeout(() => URL.revokeObjectURL(place.href), 10_000);
    say(`${place.download} is on its way to your downloads.`);
  };
  return (
    <>
      <Sentence label="What is delivered">
        Deliver {format.needs_picture ? "the reduced picture" : `all ${shown.length} swatches`} as{" "}
        <strong>
          {format.ending} {format.kind}
        </strong>
        , in the order of the strip.
      </Sentence>
      <div className="mb-3 flex min-h-8 items-center gap-4 text-[13px] text-quiet">
        <span>
          keeps <strong className="font-semibold text-ink">{said(format.keeps)}</strong>
        </span>
        {dropped.length > 0 ? (
          <span>
            leaves out <strong className="font-semibold text-ink">{said(dropped)}</strong>
          </span>
        ) : (
          <span>nothing is lost</span>
        )}
        <span className="grow" />
        <Button primary disabled={blocked || keeping} onClick={() => void download()}>
          <Download size={15} aria-hidden="true" className="mr-1.5 -mt-0.5 inline" />
          Download {format.ending}
        </Button>
      </div>
      <div className="grid min-h-0 grow grid-cols-[300px_1fr] gap-5">
        <fieldset className="m-0 border-0 p-0">
          <legend className="sr-only">Format</legend>
          {menus.formats.map((entry) => (
            <label
              key={entry.id}
              className={`grid cursor-pointer grid-cols-[22px_1fr] items-start border-t border-line py-2.5 pr-2 pl-2 last:border-b has-focus-visible:outline-2 has-focus-visible:-outline-offset-2 has-focus-visible:outline-ink ${
                entry.id === format.id ? "bg-raised" : "hover:bg-panel"
              }`}
            >
              <input
                type="radio"
                name="format"
                className="mt-1 accent-ink outline-none"
                checked={entry.id === format.id}
                onChange={() => setChosen(entry.id)}
              />
              <span>
                <span className="block font-semibold">
                  {entry.ending} {entry.kind}
                </span>
                <span className="block text-[13px] text-quiet">{entry.use}</span>
              </span>
            </label>
          ))}
        </fieldset>
        <section aria-label="Preview of the file" className="min-h-0 min-w-0">
          {blocked ? (
            <p className="text-quiet">
              There is no reduced picture on this bench. Drop a picture to reduce it.
            </p>
          ) : format.needs_picture ? (
            <div className="grid h-full place-items-center overflow-hidden rounded-sm bg-well p-4">
              <img
                key={palette.revision}
                src={`${address(format)}&revision=${palette.revision}`}
                alt={`${palette.name}, reduced`}
                className="max-h-full max-w-full object-contain"
              />
            </div>
          ) : (
            <TextPreview format={format} />
          )}
        </section>
      </div>
    </>
  );
}
