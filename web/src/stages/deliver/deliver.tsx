import { useQuery } from "@tanstack/react-query";
import { Check, Download, TriangleAlert } from "lucide-react";
import { fetchFile } from "../../api/files";
import { ask } from "../../api/queries";
import type { Delivery, FileRequest, FormatChoice, Palette } from "../../api/types";
import { inWords } from "../../api/words";
import { useCommands, useIsKeeping, useLinked, useMenus, usePalette } from "../../bench/context";
import { FittedPicture } from "../../picture/fitted-picture";
import { useScreenParts } from "../../shell/store";
import { Button } from "../../ui/button";
import { ChoiceWord, Sentence } from "../../ui/sentence";
import { NOTHING_DELIVERED, useDelivered } from "./store";

const FAMILIES: Record<string, string> = {
  palette: "Palettes",
  picture: "Pictures",
  code: "Code",
  chart: "Charts and maps",
};

function useReport(format: FormatChoice, request: FileRequest) {
  const palette = usePalette();
  return useQuery({
    ...ask.report(palette, format.id, request),
    placeholderData: (before: Delivery | undefined, query) =>
      query?.queryKey[3] === format.id ? before : undefined,
  });
}

function PicturePreview({ format, request }: { format: FormatChoice; request: FileRequest }) {
  const palette = usePalette();
  const file = useQuery({
    ...ask.file(palette, format.id, request),
  });
  return (
    <div className="h-full overflow-hidden rounded-sm bg-well">
      {file.data && (
        <FittedPicture file={file.data.blob} label={`${palette.name} as ${format.ending} ${format.kind}`} />
      )}
    </div>
  );
}

function KeepReport({ format, report }: { format: FormatChoice; report: Delivery | undefined }) {
  if (!report) return <p className="text-small text-quiet">Looking at what the file keeps …</p>;
  if (report.problem)
    return (
      <p role="alert" className="flex gap-2 text-small font-semibold">
        <TriangleAlert size={16} aria-hidden="true" className="mt-px shrink-0" />
        {report.problem}
      </p>
    );
  if (report.losses.length === 0)
    return (
      <p className="flex items-center gap-2 text-small">
        <Check size={16} aria-hidden="true" />A {format.ending} file keeps everything of these {report.count}{" "}
        swatches.
      </p>
    );
  return (
    <ul className="m-0 grid list-none gap-1 p-0 text-small">
      {report.losses.map((loss) => (
        <li key={loss.code} className="flex gap-2">
          <span aria-hidden="true" className="text-quiet">
            –
          </span>
          {loss.text}
        </li>
      ))}
    </ul>
  );
}

/** The variants that a file may be of. */
function variantChoices(palette: Palette, format: FormatChoice) {
  const names = palette.variants.map((entry) => entry.name).join(", ");
  const shown = palette.variants.find((entry) => entry.id === palette.variant)?.name ?? "";
  return [
    { id: "shown", label: `the colors shown (${shown})`, use: "Whichever variant the bench shows then." },
    ...palette.variants.map((entry) => ({
      id: entry.id,
      label: entry.name,
      use: "This variant, whatever is shown.",
    })),
    {
      id: "each",
      label: `${palette.variants.length} files, one a variant`,
      use: `Packed together: ${names}.`,
    },
    ...(format.joins_variants
      ? [
          {
            id: "joined",
            label: "one file of all variants",
            use:
              format.ending === ".css"
                ? "The first as it is, others by a class; the dark one by media query too."
                : names,
          },
        ]
      : []),
  ];
}

/** Hand the palette and the picture on. */
export function DeliverStage() {
  const palette = usePalette();
  const link = useLinked();
  const menus = useMenus();
  const keeping = useIsKeeping();
  const { showPicture, settle } = useCommands();
  const { say, selection } = useScreenParts("say", "selection");
  const {
    format: chosen,
    among,
    options,
    variant: wanted,
  } = { ...NOTHING_DELIVERED, ...useDelivered((state) => state.palettes[palette.id]) };
  const put = useDelivered((state) => state.put);
  const format = menus.formats.find((entry) => entry.id === chosen) ?? (menus.formats[0] as FormatChoice);
  const present = palette.swatches.filter((swatch) => selection.has(swatch.id));
  const ids =
    among === "selected" && present.length > 0 && !format.needs_picture ? present.map((s) => s.id) : null;
  // What one file cannot hold goes into several.
  const variant = wanted === "joined" && !format.joins_variants ? "each" : wanted;
  const every = palette.variants.map((entry) => entry.id);
  const request: FileRequest = {
    variants: variant === "each" || variant === "joined" ? every : every.includes(variant) ? [variant] : [],
    joined: variant === "joined" && every.length > 1,
    ids,
    options: options[format.id] ?? {},
    picture: format.needs_picture ? (link?.picture.id ?? null) : null,
  };
  const blocked = format.needs_picture && !link;
  const report = useReport(format, request);
  const shown = blocked ? undefined : report.data;
  const download = async () => {
    if (!(await settle())) return;
    try {
      const { blob, name } = await fetchFile(palette.id, format.id, request);
      const place = document.createElement("a");
      place.href = URL.createObjectURL(blob);
      place.download = name ?? `palette${format.ending}`;
      place.click();
      setTimeout(() => URL.revokeObjectURL(place.href), 10_000);
      say(`${place.download} is on its way to your downloads.`);
    } catch (error) {
      say(inWords(error), { kind: "wrong" });
    }
  };
  const copy = async () => {
    try {
      const { blob } = await fetchFile(palette.id, format.id, request);
      await navigator.clipboard.writeText(await blob.text());
      say(`The ${format.ending} text is on the clipboard.`);
    } catch (error) {
      say(inWords(error), { kind: "wrong" });
    }
  };
  return (
    <>
      <Sentence label="What is delivered">
        Deliver{" "}
        {format.needs_picture && link && palette.links.length > 1 ? (
          <ChoiceWord
            label="Picture"
            value={link.picture.id}
            choices={palette.links.map(({ picture }) => ({
              id: picture.id,
              label: picture.name,
              use: `${picture.width.toLocaleString("en")} × ${picture.height.toLocaleString("en")}`,
            }))}
            onChange={showPicture}
          />
        ) : format.needs_picture ? (
          "the reduced picture"
        ) : (
          <ChoiceWord
            label="What is delivered"
            value={ids ? "selected" : "all"}
            choices={[
              {
                id: "all",
                label: `all ${palette.swatches.length} swatches`,
                use: "The strip, in its order.",
              },
              {
                id: "selected",
                label: present.length === 1 ? "the selected swatch" : `the ${present.length} selected`,
                use: "Only what is selected in the strip, in its order.",
              },
            ]}
            onChange={(id) => put(palette.id, { among: id })}
          />
        )}{" "}
        as{" "}
        <strong>
          {format.ending} {format.kind}
        </strong>
        {palette.variants.length > 1 && (
          <>
            , in{" "}
            <ChoiceWord
              label="Which variants"
              value={variant}
              choices={variantChoices(palette, format)}
              onChange={(id) => put(palette.id, { variant: id })}
            />
          </>
        )}
        {format.options.map((option) => (
          <span key={option.id}>
            , {option.label}{" "}
            <ChoiceWord
              label={option.label}
              value={options[format.id]?.[option.id] ?? option.choices[0]?.id ?? ""}
              choices={option.choices}
              onChange={(id) =>
                put(palette.id, {
                  options: { ...options, [format.id]: { ...options[format.id], [option.id]: id } },
                })
              }
            />
          </span>
        ))}
        .
      </Sentence>
      <div className="mt-1 grid min-h-0 grow grid-cols-[minmax(190px,290px)_1fr] gap-5">
        <fieldset className="m-0 min-h-0 overflow-y-auto border-0 p-0 pr-1">
          <legend className="sr-only">Format</legend>
          {menus.formats.map((entry, place) => (
            <div key={entry.id}>
              {menus.formats.findIndex((other) => other.family === entry.family) === place && (
                <h3 className={`pb-1 pl-2 text-small text-quiet ${place > 0 ? "pt-3" : ""}`}>
                  {FAMILIES[entry.family] ?? entry.family}
                </h3>
              )}
              <label
                title={entry.use}
                className={`flex h-8 cursor-pointer items-center gap-2 border-t border-line pr-2 pl-2 has-focus-visible:outline-2 has-focus-visible:-outline-offset-2 has-focus-visible:outline-ink ${
                  entry.id === format.id ? "bg-raised" : "hover:bg-panel"
                }`}
              >
                <input
                  type="radio"
                  name="format"
                  className="accent-ink outline-none"
                  checked={entry.id === format.id}
                  onChange={() => put(palette.id, { format: entry.id })}
                />
                <span className="truncate">
                  <strong className="font-semibold">{entry.ending}</strong> {entry.kind}
                </span>
              </label>
            </div>
          ))}
          <h3 className="pt-3 pb-1 pl-2 text-small text-quiet">For a review</h3>
          <a
            href={`/api/palettes/${palette.id}/review`}
            download
            className="flex h-8 items-center gap-2 border-t border-line px-2 hover:bg-panel"
            title="One page that needs nothing else: every check with its verdict, sentence and picture"
          >
            <Download size={15} aria-hidden="true" />
            <span className="truncate">
              <strong className="font-semibold">.html</strong> all checks with their pictures
            </span>
          </a>
        </fieldset>
        <section aria-label="The file" className="flex min-h-0 min-w-0 flex-col">
          <p className="mb-2 text-small text-quiet">{format.use}</p>
          <div className="mb-3 flex items-start gap-5 border-y border-line py-2.5">
            <div className="min-w-0 grow">
              <h3 className="mb-1 text-small font-semibold">
                {shown && !shown.problem && shown.losses.length > 0
                  ? "What this file drops or changes"
                  : "Keep report"}
              </h3>
              {blocked ? (
                <p className="text-small text-quiet">
                  There is no reduced picture on this bench. Bring a picture in to reduce it.
                </p>
              ) : report.error ? (
                <p role="alert" className="text-small font-semibold">
                  {report.error.message}
                </p>
              ) : (
                <KeepReport format={format} report={shown} />
              )}
            </div>
            <div className="flex shrink-0 items-center gap-2">
              {format.is_text && (
                <Button disabled={!shown || shown.problem !== null} onClick={() => void copy()}>
                  Copy
                </Button>
              )}
              <Button
                primary
                disabled={blocked || keeping || !shown || shown.problem !== null}
                onClick={() => void download()}
              >
                <Download size={15} aria-hidden="true" className="mr-1.5 -mt-0.5 inline" />
                Download {shown && shown.files > 1 ? `${shown.files} files` : format.ending}
              </Button>
            </div>
          </div>
          <div className="min-h-0 grow">
            {shown?.text ? (
              <pre
                role="document"
                // biome-ignore lint/a11y/noNoninteractiveTabindex: a scrolling text must be reachable by keyboard
                tabIndex={0}
                aria-label={`Beginning of the ${format.ending} file`}
                className="m-0 h-full overflow-auto bg-panel p-3 text-small leading-relaxed"
              >
                {shown.text}
              </pre>
            ) : shown && shown.files > 1 && !shown.problem ? (
              <p className="text-small text-quiet">
                {shown.name} packs {shown.files} {format.ending} files, one for each variant:{" "}
                {palette.variants.map((entry) => entry.name).join(", ")}.
              </p>
            ) : shown && format.ending === ".png" && !shown.problem ? (
              <PicturePreview format={format} request={request} />
            ) : shown && !shown.problem ? (
              <p className="text-small text-quiet">
                A binary file of {shown.bytes?.toLocaleString("en")} bytes with {shown.count}{" "}
                {shown.count === 1 ? "swatch" : "swatches"}.
              </p>
            ) : null}
          </div>
        </section>
      </div>
    </>
  );
}
