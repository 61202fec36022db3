import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { fetchRampFile } from "../../api/files";
import { ask } from "../../api/queries";
import { inWords } from "../../api/words";
import { usePalette } from "../../bench/context";
import { useScreen } from "../../shell/store";
import { Button } from "../../ui/button";
import { ChoiceWord, Sentence } from "../../ui/sentence";
import { Samples } from "./samples";
import type { RampWork } from "./use-ramp";

/** The ramp as a file or as code: what it keeps is said before. */
export function TakeView({ work }: { work: RampWork }) {
  const palette = usePalette();
  const say = useScreen((screen) => screen.say);
  const { menus, recipe, state, drawing } = work;
  const [format, setFormat] = useState(menus.formats.find((entry) => entry.family === "code")?.id ?? "");
  const [options, setOptions] = useState<Record<string, Record<string, string>>>({});
  const entry = menus.formats.find((candidate) => candidate.id === format) ?? menus.formats[0];
  const kept = palette.ramps.find((candidate) => candidate.id === state.kept);
  const name = kept?.name ?? "Ramp";
  const request = { ramp: recipe, name, options: options[entry?.id ?? ""] ?? {} };
  const report = useQuery({
    ...ask.rampReport(palette, entry?.id ?? "", request),
    enabled: entry !== undefined,
  });
  if (!entry || !drawing) return null;
  const attempt = async (work: () => Promise<void>) => {
    try {
      await work();
    } catch (error) {
      say(inWords(error), { kind: "wrong" });
    }
  };
  const download = () =>
    attempt(async () => {
      const { blob, name: file } = await fetchRampFile(palette.id, entry.id, request);
      const place = document.createElement("a");
      place.href = URL.createObjectURL(blob);
      place.download = file ?? `ramp${entry.ending}`;
      place.click();
      setTimeout(() => URL.revokeObjectURL(place.href), 10_000);
      say(`${place.download} is on its way to your downloads.`);
    });
  const copy = () =>
    attempt(async () => {
      const { blob } = await fetchRampFile(palette.id, entry.id, request);
      await navigator.clipboard.writeText(await blob.text());
      say(`The ${entry.ending} text is on the clipboard.`);
    });
  const shown = report.error ? undefined : report.data;
  return (
    <div className="flex min-h-0 grow flex-col">
      <Sentence label="What is taken along">
        Take {kept ? <strong>{kept.name}</strong> : "the ramp"} along as{" "}
        <ChoiceWord
          label="Format of the ramp"
          value={entry.id}
          choices={menus.formats.map(({ id, ending, kind, use }) => ({
            id,
            label: `${ending} ${kind}`,
            use,
          }))}
          onChange={setFormat}
        />
        {entry.options.map((option) => (
          <span key={option.id}>
            , {option.label}{" "}
            <ChoiceWord
              label={option.label}
              value={request.options[option.id] ?? option.choices[0]?.id ?? ""}
              choices={option.choices}
              onChange={(id) =>
                setOptions({ ...options, [entry.id]: { ...request.options, [option.id]: id } })
              }
            />
          </span>
        ))}
        .
      </Sentence>
      <div className="flex min-h-8 items-center gap-x-4 text-small text-quiet">
        <span>{shown?.bytes != null && `${shown.bytes.toLocaleString("en")} bytes`}</span>
        <span className="grow" />
        {entry.is_text && (
          <Button disabled={!shown?.bytes} onClick={() => void copy()}>
            Copy
          </Button>
        )}
        <Button primary disabled={!shown?.bytes} onClick={() => void download()}>
          Download {entry.ending}
        </Button>
      </div>
      <div className="relative mt-1 h-12 shrink-0">
        <Samples
          rgba={state.drawn === "stepped" && drawing.own.steps ? drawing.own.steps : drawing.own.rgba}
        />
      </div>
      <div className="mt-3 grid min-h-0 grow grid-cols-[1fr_1.4fr] gap-x-6">
        <section aria-label="Keep report" className="min-w-0">
          <h3 className="mb-1 text-small font-semibold">What the file keeps</h3>
          {report.error && <p role="alert">{report.error.message}</p>}
          {shown?.problem && <p role="alert">{shown.problem}</p>}
          {shown && shown.losses.length === 0 && !shown.problem && (
            <p className="text-small text-quiet">Everything: its own stops, as they are.</p>
          )}
          <ul className="m-0 list-none p-0">
            {shown?.losses.map((loss) => (
              <li key={loss.code} className="border-b border-line py-1.5 text-small">
                {loss.text}
              </li>
            ))}
          </ul>
        </section>
        <section aria-label="The file" className="flex min-h-0 min-w-0 flex-col">
          <h3 className="mb-1 text-small font-semibold">{entry.is_text ? "The text" : "The picture"}</h3>
          {shown?.text != null ? (
            <pre className="m-0 min-h-0 grow overflow-auto border border-line bg-panel p-3 text-caption whitespace-pre-wrap">
              {shown.text}
            </pre>
          ) : (
            <p className="text-small text-quiet">{entry.use}</p>
          )}
        </section>
      </div>
    </div>
  );
}
