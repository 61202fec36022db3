import { keepPreviousData, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import { ask } from "../../api/queries";
import { inWords } from "../../api/words";
import { useBench, useShown } from "../../bench/context";
import { enter, NO_LINES, useLines } from "../../bench/lines";
import { EnteredLines, Marked, RefusedLines } from "../../bench/lines-shown";
import { Patch } from "../../lens/patch";
import { useScreenParts } from "../../shell/store";
import { Button } from "../../ui/button";
import { isFocusNowhere } from "../../ui/marks";
import { Sentence } from "../../ui/sentence";
import { useSettled } from "../../ui/use-settled";

const SETTLE_MS = 120;
const MOST_SHOWN = 24;
/** A longer text is read when it is entered, and not while it is typed. */
const LONGEST_PREVIEWED = 20_000;
const WAYS: [string, string][] = [
  ["Hex", "#a1b2c3   a1b2c3   #abc   0xa1b2c3"],
  ["Functions", "rgb(161 178 195)   hsl(210 22% 70%)   oklch(0.75 0.03 250)   lab(71 -3 -11)"],
  ["Names", "tomato   rebeccapurple   transparent, in a line of their own"],
  ["Ink shares", "cmyk(0 35 60 10)   K25 for a gray of 25 % black"],
  ["Several", "separated by blanks, commas or line ends"],
  ["With names", "a line each:  Lamp core #ffcc66   or   #ffcc66 Lamp core"],
];

/** Bring colors in by typing or pasting: entry adds, it never overwrites. */
export function TypingView() {
  const queries = useQueryClient();
  const bench = useBench();
  const shown = useShown();
  const { selected } = useScreenParts("selected");
  const lines = useLines((state) => state.palettes[bench.id]) ?? NO_LINES;
  const put = useLines((state) => state.put);
  const settled = useSettled(lines.text.trim(), SETTLE_MS);
  const field = useRef<HTMLTextAreaElement>(null);
  const isBlank = shown.length === 0;
  // An empty palette begins with typing.
  useEffect(() => {
    if (isBlank && isFocusNowhere()) field.current?.focus();
  }, [isBlank]);
  const text = lines.text.trim();
  const isLong = text.length > LONGEST_PREVIEWED;
  const parsed = useQuery({
    ...ask.parsed(settled.length > LONGEST_PREVIEWED ? "" : settled),
    placeholderData: keepPreviousData,
  });
  const isEmpty = text === "" || isLong;
  const wrong = isEmpty ? [] : (parsed.data?.wrong ?? []);
  const colors = isEmpty ? [] : (parsed.data?.colors ?? []);
  const current = selected.at(-1);
  const follows = shown.find((swatch) => swatch.id === current);
  const add = () => {
    // The line leaves the field at once: what is typed next is another one.
    put(bench.id, () => ({ text: "" }));
    enter(queries, bench, lines.text);
  };
  return (
    <div className="-mx-1 min-h-0 max-w-3xl overflow-y-auto px-1">
      <Sentence label="What typing does">
        Add {colors.length > 1 ? <strong>{colors.length} colors</strong> : "a color"}{" "}
        {follows ? (
          <>
            after <strong>{follows.name}</strong>.
          </>
        ) : shown.length ? (
          "at the end of the strip."
        ) : (
          "to the empty strip."
        )}
      </Sentence>
      <label htmlFor="entry" className="mt-2 mb-1 block text-small text-quiet">
        Type or paste colors in any notation
      </label>
      <div className="flex items-start gap-2">
        <textarea
          ref={field}
          id="entry"
          data-mark="entry"
          rows={3}
          value={lines.text}
          spellCheck={false}
          placeholder="Lamp core #ffcc66"
          aria-invalid={wrong.length > 0}
          aria-describedby="entry-said"
          className="min-h-20 grow resize-y rounded-sm border border-ink bg-raised px-3 py-2 text-lead placeholder:text-quiet"
          onChange={(event) => put(bench.id, () => ({ text: event.target.value }))}
          onKeyDown={(event) => {
            if (event.key === "Enter" && !event.shiftKey && !event.nativeEvent.isComposing) {
              event.preventDefault();
              add();
            }
            if (event.key === "Escape") event.currentTarget.blur();
            event.stopPropagation();
          }}
        />
        <Button primary className="h-10 px-5" disabled={text === ""} onClick={add}>
          Add
        </Button>
      </div>
      <EnteredLines entered={lines.entered} />
      <div id="entry-said" aria-live="polite" className="mt-3 min-h-16">
        {isLong && <p className="border-l-4 border-line pl-3">This long text is read when it is added.</p>}
        {parsed.error && !isEmpty ? (
          <p className="border-l-4 border-ink pl-3">{inWords(parsed.error)}</p>
        ) : (
          <>
            {wrong.length > 0 && (
              <ul
                aria-label="Not understood"
                className="m-0 mb-3 grid list-none gap-1 border-l-4 border-ink p-0 pl-3"
              >
                {wrong.slice(0, MOST_SHOWN).map((line, place) => (
                  // biome-ignore lint/suspicious/noArrayIndexKey: the same line may stand twice
                  <li key={place}>
                    <Marked parts={line.parts} /> <span className="text-small text-quiet">{line.why}</span>
                  </li>
                ))}
                {wrong.length > MOST_SHOWN && <li>and {wrong.length - MOST_SHOWN} more</li>}
              </ul>
            )}
            <ul className="m-0 flex list-none flex-wrap gap-3 p-0" aria-label="Understood">
              {colors.slice(0, 48).map((color, place) => (
                // biome-ignore lint/suspicious/noArrayIndexKey: the same color may stand twice
                <li key={place} className="w-24 text-small">
                  <Patch className="mb-1 block h-12" color={color.hex} />
                  <span className="block truncate font-semibold">{color.name}</span>
                  <span className="text-quiet">{color.hex}</span>
                </li>
              ))}
            </ul>
          </>
        )}
      </div>
      <RefusedLines refused={lines.refused} />
      <dl className="mt-4 grid grid-cols-[90px_1fr] gap-y-1.5 border-t border-line pt-4 text-small">
        {WAYS.map(([name, example]) => (
          <div key={name} className="contents">
            <dt className="text-quiet">{name}</dt>
            <dd className="m-0 whitespace-pre-wrap">{example}</dd>
          </div>
        ))}
      </dl>
    </div>
  );
}
