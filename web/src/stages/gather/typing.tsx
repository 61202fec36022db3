import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { ask } from "../../api/queries";
import { useCommands, useShown } from "../../bench/context";
import { Patch } from "../../lens/patch";
import { useScreenParts } from "../../shell/store";
import { Button } from "../../ui/button";
import { Sentence } from "../../ui/sentence";

const SETTLE_MS = 120;
const MOST_WRONG = 24;
const WAYS: [string, string][] = [
  ["Hex", "#a1b2c3   a1b2c3   #abc   0xa1b2c3"],
  ["Functions", "rgb(161 178 195)   hsl(210 22% 70%)   oklch(0.75 0.03 250)   lab(71 -3 -11)"],
  ["Names", "tomato   rebeccapurple   transparent"],
  ["Ink shares", "cmyk(0 35 60 10)   K25 for a gray of 25 % black"],
  ["Several", "separated by blanks, commas or line ends"],
  ["With names", "a line each:  Lamp core #ffcc66   or   #ffcc66 Lamp core"],
];

/** Bring colors in by typing or pasting: entry adds, it never overwrites. */
export function TypingView() {
  const shown = useShown();
  const { operate } = useCommands();
  const { selected, select } = useScreenParts("selected", "select");
  const [text, setText] = useState("");
  const [settled, setSettled] = useState("");
  useEffect(() => {
    const timer = setTimeout(() => setSettled(text.trim()), SETTLE_MS);
    return () => clearTimeout(timer);
  }, [text]);
  const parsed = useQuery({
    ...ask.parsed(settled),
  });
  const wrong = settled === "" ? [] : (parsed.data?.wrong ?? []);
  const colors = settled === "" ? [] : (parsed.data?.colors ?? []);
  const current = selected.at(-1);
  const after = current ? shown.findIndex((swatch) => swatch.id === current) : -1;
  const follows = after >= 0 ? shown[after] : null;
  const add = async () => {
    if (!text.trim()) return;
    // What was understood is added; what was not stays in the field to be mended.
    const answer = settled === text.trim() ? parsed.data : undefined;
    const known = new Set(shown.map((swatch) => swatch.id));
    const changed = await operate({
      kind: "add_swatches",
      text: answer?.taken ?? text,
      after: after >= 0 ? after : null,
    });
    if (!changed) return;
    const added = changed.swatches.filter((swatch) => !known.has(swatch.id));
    select(added.map((swatch) => swatch.id));
    setText(answer?.left ?? "");
  };
  return (
    <div className="-mx-1 min-h-0 max-w-3xl overflow-y-auto px-1">
      <Sentence label="What typing does">
        Add {colors.length > 1 ? <strong>{colors.length} colors</strong> : "a color"}{" "}
        {follows ? (
          <>
            after <strong>{follows.name}</strong>.
          </>
        ) : (
          "to the empty strip."
        )}
      </Sentence>
      <label htmlFor="entry" className="mt-2 mb-1 block text-small text-quiet">
        Type or paste colors in any notation
      </label>
      <div className="flex items-start gap-2">
        <textarea
          id="entry"
          data-mark="entry"
          rows={3}
          value={text}
          spellCheck={false}
          placeholder="#e85421, oklch(0.84 0.15 85) tomato"
          aria-invalid={(parsed.isError || wrong.length > 0) && settled !== ""}
          aria-describedby="entry-said"
          className="min-h-20 grow resize-y rounded-sm border border-ink bg-raised px-3 py-2 text-lead placeholder:text-quiet"
          onChange={(event) => setText(event.target.value)}
          onKeyDown={(event) => {
            if (event.key === "Enter" && !event.shiftKey) {
              event.preventDefault();
              void add();
            }
            if (event.key === "Escape") event.currentTarget.blur();
            event.stopPropagation();
          }}
        />
        <Button primary className="h-10 px-5" disabled={colors.length === 0} onClick={() => void add()}>
          Add
        </Button>
      </div>
      <div id="entry-said" aria-live="polite" className="mt-3 min-h-16">
        {parsed.error && settled !== "" ? (
          <p className="border-l-4 border-ink pl-3">{parsed.error.message}</p>
        ) : (
          <>
            {wrong.length > 0 && (
              <div className="mb-3 border-l-4 border-ink pl-3">
                <p>
                  {wrong.length === 1 ? "One word is" : `${wrong.length} words are`} no color and{" "}
                  {wrong.length === 1 ? "stays" : "stay"} in the field:
                </p>
                <ul aria-label="Not understood" className="m-0 flex list-none flex-wrap gap-x-3 p-0">
                  {wrong.slice(0, MOST_WRONG).map((word, place) => (
                    // biome-ignore lint/suspicious/noArrayIndexKey: the same word may stand twice
                    <li key={place} title={word.why} className="max-w-64 truncate font-semibold">
                      {word.text}
                    </li>
                  ))}
                  {wrong.length > MOST_WRONG && <li>and {wrong.length - MOST_WRONG} more</li>}
                </ul>
              </div>
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
