import { useQueryClient } from "@tanstack/react-query";
import { Button, TextButton } from "../ui/button";
import { useBench } from "./context";
import { type Entered, enter, type Lines, type Refused, useLines } from "./lines";

const MOST_SHOWN = 24;
const MOST_LETTERS = 300;
const MOST_ROWS = 4;

/** The first pieces of a line, as far as so many letters go. */
function beginning(parts: Refused["parts"]) {
  const shown: Refused["parts"] = [];
  let room = MOST_LETTERS;
  for (const part of parts) {
    if (room <= 0) return [...shown, { text: " …", is_wrong: false }];
    shown.push({ ...part, text: part.text.slice(0, room) });
    room -= part.text.length;
  }
  return room < 0 ? [...shown, { text: " …", is_wrong: false }] : shown;
}

/** A line with what is wrong in it underlined; of a very long one its beginning. */
export function Marked({ parts }: { parts: Refused["parts"] }) {
  return (
    <span className="whitespace-pre-wrap [overflow-wrap:anywhere]">
      {beginning(parts).map((part, place) =>
        part.is_wrong ? (
          // biome-ignore lint/suspicious/noArrayIndexKey: pieces of a line stand where they stand
          <mark key={place} className="bg-transparent font-semibold text-ink underline decoration-wavy">
            {part.text}
          </mark>
        ) : (
          part.text
        ),
      )}
    </span>
  );
}

/** Lines that are on their way into the palette, in order. */
export function EnteredLines({ entered }: { entered: Entered[] }) {
  if (entered.length === 0) return null;
  return (
    <ul aria-label="Being added" className="m-0 mt-2 flex list-none flex-wrap gap-x-4 gap-y-1 p-0 text-small">
      {entered.slice(0, MOST_SHOWN).map((line) => (
        <li key={line.id} className="max-w-80 truncate text-quiet" aria-busy="true">
          {line.text.split("\n")[0]} …
        </li>
      ))}
      {entered.length > MOST_SHOWN && <li className="text-quiet">and {entered.length - MOST_SHOWN} more</li>}
    </ul>
  );
}

/** Lines that are no colors: each stays as it was typed, and is mended where it stands. */
export function RefusedLines({ refused }: { refused: Refused[] }) {
  const queries = useQueryClient();
  const bench = useBench();
  const put = useLines((state) => state.put);
  if (refused.length === 0) return null;
  const without = (id: string) => (before: Lines) => ({
    refused: before.refused.filter((line) => line.id !== id),
  });
  const again = ({ id, text, locked }: Refused) => {
    put(bench.id, without(id));
    enter(queries, bench, text, { locked });
  };
  return (
    <section aria-labelledby="to-mend" className="mt-3 border-l-4 border-ink pl-3">
      <div className="flex items-baseline gap-3">
        <h3 id="to-mend" className="m-0 text-body font-semibold">
          {refused.length === 1 ? "One line to mend" : `${refused.length} lines to mend`}
        </h3>
        {refused.length > 1 && (
          <TextButton
            onClick={() =>
              put(bench.id, (before) => ({
                refused: before.refused.filter((line) => !refused.includes(line)),
              }))
            }
          >
            Remove all
          </TextButton>
        )}
      </div>
      <ul className="m-0 mt-1 grid max-h-80 list-none grid-cols-[minmax(0,1fr)] gap-2 overflow-y-auto p-0">
        {refused.slice(0, MOST_SHOWN).map((line) => (
          <li key={line.id}>
            <div className="flex flex-wrap gap-2">
              <textarea
                aria-label={`Line to mend: ${line.text.slice(0, MOST_LETTERS)}`}
                rows={Math.min(MOST_ROWS, line.text.split("\n").length)}
                aria-invalid="true"
                value={line.text}
                spellCheck={false}
                className="min-h-8 min-w-40 grow basis-60 resize-none rounded-sm border border-ink bg-raised px-2 py-1 leading-snug"
                onChange={(event) => {
                  const text = event.target.value;
                  put(bench.id, (before) => ({
                    refused: before.refused.map((entry) =>
                      entry.id === line.id ? { ...entry, text } : entry,
                    ),
                  }));
                }}
                onKeyDown={(event) => {
                  if (event.key === "Enter" && !event.shiftKey && !event.nativeEvent.isComposing) {
                    event.preventDefault();
                    again(line);
                  }
                  if (event.key === "Escape") event.currentTarget.blur();
                  event.stopPropagation();
                }}
              />
              <Button onClick={() => again(line)} disabled={line.text.trim() === ""}>
                Add
              </Button>
              <TextButton
                aria-label={`Remove the line ${line.text.slice(0, MOST_LETTERS)}`}
                onClick={() => put(bench.id, without(line.id))}
              >
                Remove
              </TextButton>
            </div>
            <p className="m-0 mt-0.5 text-small text-quiet">
              <Marked parts={line.parts} /> {line.why}
            </p>
          </li>
        ))}
        {refused.length > MOST_SHOWN && (
          <li className="text-quiet">
            and {(refused.length - MOST_SHOWN).toLocaleString("en")} more, which follow as these are mended.
          </li>
        )}
      </ul>
    </section>
  );
}
