import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { navigate } from "wouter/use-browser-location";
import { createPalette, operateOnce } from "../api/commands";
import { ask, KEYS } from "../api/queries";
import type { Operation, Palette, StepProposal } from "../api/types";
import { inWords } from "../api/words";
import { PaletteChoice, useShelfCards } from "../cards/shelf-cards";
import { Band } from "../lens/chips";
import { useScreen } from "../shell/store";
import { Button } from "../ui/button";
import { ChoiceWord, NumberWord, PanelWord, Sentence, TextWord } from "../ui/sentence";
import { Found, FoundRamps } from "./found";
import { Notes, Readings } from "./readings";
import { type Pointed, Source } from "./source";
import { TableColumns } from "./table-columns";
import { type Choice, type How, type Item, inDoubt, takenDocument } from "./use-import";

const WAYS: { id: How; label: string; use: string }[] = [
  { id: "new", label: "make a new palette", use: "It stands on the shelf at once." },
  { id: "append", label: "append them", use: "All of them, behind the last swatch." },
  { id: "union", label: "unite them", use: "Only those that the palette has nothing like." },
  {
    id: "replace",
    label: "replace the swatches",
    use: "Locked ones stay; pictures take the nearest new color.",
  },
];

export function count(number: number, noun: string) {
  return `${number.toLocaleString("en")} ${number === 1 ? noun : `${noun}es`}`;
}

/** A word that chooses the palette that swatches come into. */
function TargetWord({ target, onChoose }: { target: string | null; onChoose: (id: string) => void }) {
  const chosen = useQuery({ ...ask.palette(target ?? ""), enabled: target !== null });
  return (
    <PanelWord label="Into which palette" text={chosen.data?.name ?? "a palette"}>
      <Targets target={target} onChoose={onChoose} />
    </PanelWord>
  );
}

function Targets({ target, onChoose }: { target: string | null; onChoose: (id: string) => void }) {
  const { cards = [], field } = useShelfCards("palettes");
  return (
    <>
      {field}
      <ul
        aria-label="Palettes of the shelf"
        className="m-0 grid max-h-72 list-none gap-2 overflow-y-auto p-0.5"
      >
        {cards.map((card) => (
          <li key={card.id}>
            <PaletteChoice card={card} isChosen={card.id === target} onChoose={() => onChoose(card.id)} />
          </li>
        ))}
      </ul>
    </>
  );
}

/** The palette that a way other than “new” works on, and what it would be afterwards. */
function useResult(item: Item) {
  const { choice, reading, file } = item;
  const target = useQuery({
    ...ask.palette(choice.target ?? ""),
    enabled: choice.how !== "new" && choice.target !== null,
  });
  const operation: Operation | null =
    reading && choice.how !== "new"
      ? {
          kind: "bring_in",
          document: takenDocument(reading, item.left),
          source: file.name,
          how: choice.how,
          tolerance: choice.tenths / 10,
          join_groups: false,
        }
      : null;
  const wish = [item.key, { ...choice, left: [...item.left].sort() }, reading?.swatches.length];
  const after = useQuery({
    // A set has no text of its own: its members stand for it.
    ...ask.proposed(target.data && !choice.done ? target.data : null, operation, wish),
    placeholderData: (before: StepProposal | undefined) => before,
  });
  return {
    target: target.data ?? null,
    operation,
    after: after.data ?? null,
    problem: after.error?.message ?? null,
  };
}

export interface DetailProps {
  item: Item;
  onChoose: (part: Partial<Choice>) => void;
  onBench: () => void;
  onDone: (palette: Palette, text: string) => void;
}

export function Detail({ item, onChoose, onBench, onDone }: DetailProps) {
  const { choice, reading, found, file, problem } = item;
  const queries = useQueryClient();
  const say = useScreen((screen) => screen.say);
  const shelf = useQuery(ask.cards("palettes"));
  const { target, operation, after, problem: refused } = useResult(item);
  const [working, setWorking] = useState(false);
  const [pointed, setPointed] = useState<Pointed>(null);
  if (problem) {
    return (
      <div role="alert" className="max-w-2xl border-l-4 border-ink pl-4">
        <p className="mb-1 text-lead font-semibold">This file cannot be brought in</p>
        <p>{problem}</p>
        <p className="mt-2 text-quiet">Nothing was changed. The other files are not affected.</p>
      </div>
    );
  }
  if (!reading || !found) return <p role="status">Looking into {file.name} …</p>;
  const taken = reading.swatches.filter((swatch) => !item.left.has(swatch.id));
  const known = new Set(target?.swatches.map((swatch) => swatch.id));
  const fresh = new Set((after?.swatches ?? []).filter((s) => !known.has(s.id)).map((s) => s.id));
  const bring = async () => {
    setWorking(true);
    try {
      if (choice.how === "new") {
        const made = await createPalette({
          name: choice.name ?? reading.title,
          document: takenDocument(reading, item.left),
          source: file.name,
        });
        queries.setQueryData(KEYS.palette(made.id), made);
        onDone(made, `now the palette “${made.name}”`);
      } else if (target && operation) {
        const changed = await operateOnce(target.id, target.revision, operation);
        queries.setQueryData(KEYS.palette(changed.id), changed);
        queries.invalidateQueries({ queryKey: KEYS.history(changed.id) });
        onDone(changed, `brought into “${changed.name}”`);
      }
      await queries.invalidateQueries({ queryKey: KEYS.shelf });
    } catch (error) {
      if (target) await queries.invalidateQueries({ queryKey: KEYS.palette(target.id) });
      say(inWords(error), { kind: "wrong" });
    } finally {
      setWorking(false);
    }
  };
  const doubtful = inDoubt(reading);
  const isAll = taken.length === reading.swatches.length;
  const ramps = reading.ramps.filter((ramp) => !item.left.has(ramp.id));
  const toggle = (id: string) => {
    const left = new Set(item.left);
    if (!left.delete(id)) left.add(id);
    onChoose({ left });
  };
  return (
    <div className="flex h-full min-h-0 flex-col">
      <Sentence label="What the import does">
        Take {isAll ? "all " : ""}
        <strong>
          {isAll
            ? count(taken.length, "swatch")
            : `${taken.length.toLocaleString("en")} of ${count(reading.swatches.length, "swatch")}`}
        </strong>{" "}
        {ramps.length > 0 && (
          <>
            and <strong>{ramps.length === 1 ? "1 ramp" : `${ramps.length} ramps`}</strong>{" "}
          </>
        )}
        read as{" "}
        <ChoiceWord
          label="Read as"
          value={String(choice.reading)}
          choices={found.readings.map((entry, place) => ({
            id: String(place),
            label: entry.label,
            use: `${count(entry.swatches.length, "swatch")}. ${entry.notes[0] ?? ""}`,
          }))}
          onChange={(id) => onChoose({ reading: Number(id), left: null })}
        />
        {reading.is_reduction && (
          <>
            {" "}
            to{" "}
            <NumberWord
              label="Number of chosen colors"
              value={choice.colors}
              min={2}
              max={256}
              unit={() => "colors"}
              hint="The picture is reduced to as many colors."
              onChange={(colors) => onChoose({ colors, left: null })}
            />
          </>
        )}{" "}
        and{" "}
        <ChoiceWord
          label="How they come in"
          value={choice.how}
          choices={WAYS}
          onChange={(how) =>
            onChoose({ how: how as How, target: choice.target ?? shelf.data?.cards[0]?.id ?? null })
          }
        />
        {choice.how === "new" ? (
          <>
            {" "}
            called{" "}
            <TextWord
              label="Name of the new palette"
              value={choice.name ?? reading.title}
              onChange={(name) => onChoose({ name })}
            />
            .
          </>
        ) : (
          <>
            {choice.how === "append" ? " to " : choice.how === "union" ? " with " : " of "}
            <TargetWord target={choice.target} onChoose={(id) => onChoose({ target: id })} />
            {choice.how === "union" && (
              <>
                {" "}
                within{" "}
                <NumberWord
                  label="Tolerance"
                  value={choice.tenths}
                  min={0}
                  max={200}
                  scale={10}
                  unit={() => "ΔE"}
                  hint="A color closer than this to one that is there already is left out."
                  onChange={(tenths) => onChoose({ tenths })}
                />
              </>
            )}
            .
          </>
        )}
      </Sentence>
      {found.readings.length > 1 && !choice.done && (
        <Readings
          readings={found.readings}
          chosen={choice.reading}
          onChoose={(reading) => onChoose({ reading, left: null })}
        />
      )}
      <div className="mb-3 flex min-h-8 items-start gap-4 text-small text-quiet">
        <Notes key={choice.reading} notes={reading.notes} />
        <span className="grow" />
        {found.picture && !choice.done && <Button onClick={onBench}>Reduce it on a bench of its own</Button>}
        {choice.done ? (
          <Button primary onClick={() => choice.done && navigate(`/palettes/${choice.done.palette}`)}>
            Open it
          </Button>
        ) : (
          <Button
            primary
            disabled={working || taken.length + ramps.length === 0 || refused !== null}
            onClick={() => void bring()}
          >
            {choice.how === "new" ? "Make the palette" : "Bring them in"}
          </Button>
        )}
      </div>
      {!choice.done && choice.how !== "new" && (
        <section aria-label="Result" className="mb-4 shrink-0">
          <h3 className="mb-1.5 text-small text-quiet">
            {refused ? (
              <span role="alert" className="font-semibold text-ink">
                {refused}
              </span>
            ) : after && target ? (
              <>
                {target.name} afterwards:{" "}
                <strong className="font-semibold text-ink">
                  {count(after.swatches.length, "swatch")}, {fresh.size.toLocaleString("en")} of them new
                </strong>
                {choice.how === "union" && taken.length > fresh.size
                  ? `; ${(taken.length - fresh.size).toLocaleString("en")} like one that is there already`
                  : ""}
                {choice.how === "replace"
                  ? `; ${target.swatches.filter((s) => !after.swatches.some((a) => a.id === s.id)).length} go`
                  : ""}
              </>
            ) : (
              "Choose a palette."
            )}
          </h3>
          {after && !refused && (
            <Band swatches={after.swatches} label="The palette afterwards" height={44} marked={fresh} />
          )}
        </section>
      )}
      <div className="mb-0.5 flex items-baseline gap-4 text-small text-quiet">
        <h3 className="font-normal">
          Found in {file.name}
          {choice.done ? "" : "; click one to leave it out"}
        </h3>
        {doubtful.size > 0 && !choice.done && (
          <Doubts
            reading={reading}
            taken={[...doubtful].filter((id) => !item.left.has(id)).length}
            count={doubtful.size}
            onTake={(take) => {
              const left = new Set(item.left);
              for (const id of doubtful) {
                if (take) left.delete(id);
                else left.add(id);
              }
              onChoose({ left });
            }}
          />
        )}
      </div>
      <div className="flex min-h-0 grow flex-col gap-3 pb-4">
        <div className="max-h-[50%] min-h-24 shrink-0 overflow-y-auto p-0.5">
          <FoundRamps item={item} onToggle={toggle} />
          <Found
            item={item}
            pointed={pointed}
            onPoint={setPointed}
            onToggle={toggle}
            onToggleAll={(ids, leave) => {
              const left = new Set(item.left);
              for (const id of ids) {
                if (leave) left.add(id);
                else left.delete(id);
              }
              onChoose({ left });
            }}
          />
        </div>
        <section
          aria-label={`What ${file.name} shows`}
          className="flex min-h-0 grow items-start border-t border-line pt-3"
        >
          {reading.columns ? (
            <TableColumns
              name={file.name}
              columns={reading.columns}
              meanings={choice.columns ?? reading.columns.meanings}
              onChange={(columns) => onChoose({ columns, left: null })}
            />
          ) : (
            <Source
              file={file}
              found={found}
              reading={reading}
              left={item.left}
              pointed={pointed}
              onPoint={setPointed}
            />
          )}
        </section>
      </div>
    </div>
  );
}

/** How many finds may be no colors, why, and a button that takes them all or leaves them. */
function Doubts({
  reading,
  taken,
  count: all,
  onTake,
}: {
  reading: { doubts: string[] };
  taken: number;
  count: number;
  onTake: (take: boolean) => void;
}) {
  const reasons = [...new Set(reading.doubts.filter(Boolean))];
  return (
    <span>
      {all === 1 ? "1 may be no color" : `${all.toLocaleString("en")} may be no colors`}:{" "}
      {reasons.slice(0, 2).join("; ")}
      {reasons.length > 2 ? " …" : ""}.{" "}
      <button type="button" className="text-ink underline" onClick={() => onTake(taken < all)}>
        {taken < all ? (all === 1 ? "Take it too" : "Take them too") : "Leave them out"}
      </button>
    </span>
  );
}
