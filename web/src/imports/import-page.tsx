import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Check, CircleAlert, X } from "lucide-react";
import { Dialog } from "radix-ui";
import { useState } from "react";
import { client, type Operation, type Palette, type StepProposal, unwrap } from "../api/client";
import { createPalette, paletteKey } from "../api/palette";
import { useBringIn } from "../shelf/use-bring-in";
import { go } from "../shell/path";
import { useScreen } from "../shell/store";
import { Button, TextButton } from "../ui/button";
import { Band } from "../ui/chips";
import { ChoiceWord, NumberWord, Sentence, TextWord } from "../ui/sentence";
import { isPicture, useWaitingFiles } from "./store";
import { type Choice, type How, type Item, takenDocument, useImport } from "./use-import";

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
const MOST_CHIPS = 512;

function count(number: number, noun: string) {
  return `${number.toLocaleString("en")} ${number === 1 ? noun : `${noun}es`}`;
}

function FileRow({ item, chosen, onChoose }: { item: Item; chosen: boolean; onChoose: () => void }) {
  const { file, problem, reading, choice } = item;
  return (
    <li>
      <button
        type="button"
        aria-current={chosen}
        onClick={onChoose}
        className={`block w-full border-l-4 px-3 py-2.5 text-left -outline-offset-2 ${chosen ? "border-ink bg-raised" : "border-transparent hover:bg-panel"}`}
      >
        <span className="flex items-center gap-1.5">
          {choice.done && <Check size={15} aria-label="Brought in" className="shrink-0" />}
          {problem && <CircleAlert size={15} aria-label="Problem" className="shrink-0" />}
          <span className="min-w-0 truncate font-semibold" title={file.name}>
            {file.name}
          </span>
        </span>
        <span className="mb-1.5 block truncate text-[13px] text-quiet">
          {choice.done?.text ??
            (problem
              ? "cannot be read"
              : reading
                ? `${reading.label} · ${count(reading.swatches.length, "swatch")}`
                : "looking …")}
        </span>
        {reading && <Band swatches={reading.swatches.slice(0, 64)} label="" height={14} />}
      </button>
    </li>
  );
}

function useTargets() {
  return useQuery({
    queryKey: ["shelf", false],
    queryFn: () => unwrap(client.GET("/api/shelf", { params: { query: { trash: false } } })),
  });
}

/** The palette that a way other than “new” works on, and what it would be afterwards. */
function useResult(item: Item) {
  const { choice, reading, file } = item;
  const target = useQuery({
    queryKey: paletteKey(choice.target ?? ""),
    enabled: choice.how !== "new" && choice.target !== null,
    queryFn: () =>
      unwrap(
        client.GET("/api/palettes/{palette_id}", { params: { path: { palette_id: choice.target ?? "" } } }),
      ),
  });
  const operation: Operation | null =
    reading && choice.how !== "new"
      ? {
          kind: "bring_in",
          document: takenDocument(reading, choice.left),
          source: file.name,
          how: choice.how,
          tolerance: choice.tenths / 10,
        }
      : null;
  const after = useQuery({
    // A set has no text of its own: its members stand for it.
    queryKey: [
      "bring-in",
      item.key,
      target.data?.id,
      target.data?.revision,
      { ...choice, left: [...choice.left].sort() },
      reading?.swatches.length,
    ],
    enabled: operation !== null && target.data !== undefined && !choice.done,
    retry: false,
    placeholderData: (before: StepProposal | undefined) => before,
    queryFn: async () =>
      (await unwrap(
        client.POST("/api/palettes/{palette_id}/operations/preview", {
          params: { path: { palette_id: choice.target ?? "" } },
          body: { operation: operation as Operation },
        }),
      )) as StepProposal,
  });
  return {
    target: target.data ?? null,
    operation,
    after: after.data ?? null,
    problem: after.error?.message ?? null,
  };
}

function Found({
  item,
  onToggle,
  onToggleAll,
}: {
  item: Item;
  onToggle: (id: string) => void;
  onToggleAll: (ids: string[], left: boolean) => void;
}) {
  const { reading, choice } = item;
  if (!reading) return null;
  const names = new Map(reading.groups.map((group) => [group.id, group.name]));
  return (
    <ul className="m-0 flex list-none flex-wrap gap-x-2 gap-y-2.5 p-0" aria-label="Found swatches">
      {reading.swatches.slice(0, MOST_CHIPS).map((swatch, place) => {
        const left = choice.left.has(swatch.id);
        const group = swatch.group ? names.get(swatch.group) : null;
        const begins = group && reading.swatches[place - 1]?.group !== swatch.group;
        return (
          <li
            key={swatch.id}
            className={`relative ${reading.groups.length ? "pt-5" : ""} ${begins ? "w-[100px] border-l border-ink pl-2" : "w-[92px]"}`}
          >
            {begins && (
              <GroupToggle
                name={group}
                members={reading.swatches.filter((other) => other.group === swatch.group).map((s) => s.id)}
                left={choice.left}
                disabled={choice.done !== null}
                onToggle={onToggleAll}
              />
            )}
            <button
              type="button"
              aria-pressed={!left}
              aria-label={`${left ? "Take" : "Leave out"} ${swatch.name}`}
              title={`${swatch.name} · ${swatch.hex}${left ? ": left out, click to take it" : ": click to leave it out"}`}
              disabled={choice.done !== null}
              onClick={() => onToggle(swatch.id)}
              className="block w-full text-left"
            >
              <span
                className={`block h-10 ${left ? "hatched border border-dashed border-line" : swatch.alpha === 0 ? "checkered" : ""}`}
                style={left || swatch.alpha === 0 ? undefined : { background: swatch.hex }}
              />
              <span
                className={`block truncate text-[13px] ${left ? "text-quiet line-through" : "font-semibold"}`}
              >
                {swatch.name}
              </span>
            </button>
          </li>
        );
      })}
      {reading.swatches.length > MOST_CHIPS && (
        <li className="self-end text-[13px] text-quiet">
          and {(reading.swatches.length - MOST_CHIPS).toLocaleString("en")} more
        </li>
      )}
    </ul>
  );
}

/** The name of a source or group, which leaves out or takes all of it. */
function GroupToggle({
  name,
  members,
  left,
  disabled,
  onToggle,
}: {
  name: string;
  members: string[];
  left: ReadonlySet<string>;
  disabled: boolean;
  onToggle: (ids: string[], left: boolean) => void;
}) {
  const all = members.every((id) => left.has(id));
  return (
    <button
      type="button"
      disabled={disabled}
      aria-label={`${name}: ${all ? "take" : "leave out"} all ${members.length}`}
      title={`${all ? "Take" : "Leave out"} all ${members.length} of ${name}`}
      className={`absolute top-0 left-2 max-w-40 truncate text-[12px] hover:underline ${all ? "text-quiet line-through" : "font-semibold"}`}
      onClick={() => onToggle(members, !all)}
    >
      {name}
    </button>
  );
}

interface DetailProps {
  item: Item;
  onChoose: (part: Partial<Choice>) => void;
  onBench: () => void;
  onDone: (palette: Palette, text: string) => void;
}

function Detail({ item, onChoose, onBench, onDone }: DetailProps) {
  const { choice, reading, found, file, problem } = item;
  const queries = useQueryClient();
  const say = useScreen((screen) => screen.say);
  const shelf = useTargets();
  const { target, operation, after, problem: refused } = useResult(item);
  const [working, setWorking] = useState(false);
  if (problem) {
    return (
      <div role="alert" className="max-w-2xl border-l-4 border-ink pl-4">
        <p className="mb-1 text-[16px] font-semibold">This file cannot be brought in</p>
        <p>{problem}</p>
        <p className="mt-2 text-quiet">Nothing was changed. The other files are not affected.</p>
      </div>
    );
  }
  if (!reading || !found) return <p role="status">Looking into {file.name} …</p>;
  const taken = reading.swatches.filter((swatch) => !choice.left.has(swatch.id));
  const known = new Set(target?.swatches.map((swatch) => swatch.id));
  const fresh = new Set((after?.swatches ?? []).filter((s) => !known.has(s.id)).map((s) => s.id));
  const bring = async () => {
    setWorking(true);
    try {
      if (choice.how === "new") {
        const made = await createPalette({
          name: choice.name ?? reading.title,
          document: takenDocument(reading, choice.left),
          source: file.name,
        });
        queries.setQueryData(paletteKey(made.id), made);
        onDone(made, `now the palette “${made.name}”`);
      } else if (target && operation) {
        const changed = await unwrap(
          client.POST("/api/palettes/{palette_id}/operations", {
            params: { path: { palette_id: target.id } },
            body: { base: target.revision, operation },
          }),
        );
        queries.setQueryData(paletteKey(changed.id), changed);
        queries.invalidateQueries({ queryKey: ["history", changed.id] });
        onDone(changed, `brought into “${changed.name}”`);
      }
      await queries.invalidateQueries({ queryKey: ["shelf"] });
    } catch (error) {
      if (target) await queries.invalidateQueries({ queryKey: paletteKey(target.id) });
      say(error instanceof Error ? error.message : String(error), { kind: "wrong" });
    } finally {
      setWorking(false);
    }
  };
  const isAll = taken.length === reading.swatches.length;
  return (
    <div className="flex h-full min-h-0 flex-col">
      <Sentence label="What the import does">
        Take {isAll ? "all " : ""}
        <strong>
          {isAll
            ? count(taken.length, "swatch")
            : `${taken.length.toLocaleString("en")} of ${count(reading.swatches.length, "swatch")}`}
        </strong>{" "}
        read as{" "}
        <ChoiceWord
          label="Read as"
          value={String(choice.reading)}
          choices={found.readings.map((entry, place) => ({
            id: String(place),
            label: entry.label,
            use: `${count(entry.swatches.length, "swatch")}. ${entry.notes[0] ?? ""}`,
          }))}
          onChange={(id) => onChoose({ reading: Number(id), left: new Set() })}
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
              onChange={(colors) => onChoose({ colors, left: new Set() })}
            />
          </>
        )}{" "}
        and{" "}
        <ChoiceWord
          label="How they come in"
          value={choice.how}
          choices={WAYS}
          onChange={(how) =>
            onChoose({ how: how as How, target: choice.target ?? shelf.data?.palettes[0]?.id ?? null })
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
            <ChoiceWord
              label="Into which palette"
              value={choice.target ?? ""}
              choices={(shelf.data?.palettes ?? []).map((card) => ({
                id: card.id,
                label: card.name,
                use: count(card.count, "swatch"),
              }))}
              onChange={(id) => onChoose({ target: id })}
            />
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
      <div className="mb-3 flex min-h-8 items-center gap-4 text-[13px] text-quiet">
        <span className="min-w-0 truncate" title={reading.notes.join(" ")}>
          {reading.notes.join(" ")}
        </span>
        <span className="grow" />
        {found.picture && isPicture(file) && !choice.done && (
          <Button onClick={onBench}>Reduce it on a bench of its own</Button>
        )}
        {choice.done ? (
          <Button primary onClick={() => choice.done && go(`/palettes/${choice.done.palette}`)}>
            Open it
          </Button>
        ) : (
          <Button
            primary
            disabled={working || taken.length === 0 || refused !== null}
            onClick={() => void bring()}
          >
            {choice.how === "new" ? "Make the palette" : "Bring them in"}
          </Button>
        )}
      </div>
      {!choice.done && choice.how !== "new" && (
        <section aria-label="Result" className="mb-4 shrink-0">
          <h3 className="mb-1.5 text-[13px] text-quiet">
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
      <h3 className="mb-0.5 text-[13px] text-quiet">
        Found in {file.name}
        {choice.done ? "" : "; click one to leave it out"}
      </h3>
      <div className="min-h-0 grow overflow-y-auto pb-4 pl-0.5">
        <Found
          item={item}
          onToggle={(id) => {
            const left = new Set(choice.left);
            if (!left.delete(id)) left.add(id);
            onChoose({ left });
          }}
          onToggleAll={(ids, leave) => {
            const left = new Set(choice.left);
            for (const id of ids) {
              if (leave) left.add(id);
              else left.delete(id);
            }
            onChoose({ left });
          }}
        />
      </div>
    </div>
  );
}

function Page({ files, target, close }: { files: File[]; target: string | null; close: () => void }) {
  const { items, choose } = useImport(files, target);
  const [place, setPlace] = useState(0);
  const bringIn = useBringIn();
  const item = items[place];
  const left = items.filter((entry) => !entry.choice.done && !entry.problem).length;
  const done = (at: number, palette: Palette, text: string) => {
    choose(at, { done: { palette: palette.id, text } });
    const next = items.findIndex((entry, other) => other !== at && !entry.choice.done && !entry.problem);
    if (next >= 0) setPlace(next);
    else {
      close();
      go(`/palettes/${palette.id}`);
    }
  };
  return (
    <>
      <header className="flex h-14 shrink-0 items-center gap-3 border-b border-line px-6">
        <Dialog.Title className="text-[17px] font-semibold">
          Bring in {files.length === 1 ? files[0]?.name : `${files.length} files`}
        </Dialog.Title>
        <Dialog.Description className="text-[13px] text-quiet">
          Nothing changes before you say so
        </Dialog.Description>
        <span className="grow" />
        {files.length > 1 && <span className="text-[13px] text-quiet">{left} to decide</span>}
        <Dialog.Close asChild>
          <TextButton>
            <X size={16} aria-hidden="true" className="mr-1 -mt-0.5 inline" />
            {items.some((entry) => entry.choice.done) ? "Close" : "Leave everything as it is"}
          </TextButton>
        </Dialog.Close>
      </header>
      <div className="flex min-h-0 grow">
        {files.length > 1 && (
          <ul
            aria-label="Files"
            className="m-0 w-[280px] shrink-0 list-none overflow-y-auto border-r border-line p-0"
          >
            {items.map((entry, at) => (
              <FileRow key={entry.key} item={entry} chosen={at === place} onChoose={() => setPlace(at)} />
            ))}
          </ul>
        )}
        <div className="min-w-0 grow px-6 pt-3">
          {item && (
            <Detail
              key={item.key}
              item={item}
              onChoose={(part) => choose(place, part)}
              onDone={(palette, text) => done(place, palette, text)}
              onBench={() => {
                close();
                void bringIn([item.file]);
              }}
            />
          )}
        </div>
      </div>
    </>
  );
}

/** What the files hold, and how it comes in: shown before anything changes. */
export function ImportPage() {
  const { waiting, close } = useWaitingFiles();
  return (
    <Dialog.Root open={waiting !== null} onOpenChange={(open) => !open && close()}>
      <Dialog.Portal>
        <Dialog.Content className="fixed inset-0 z-30 flex flex-col bg-ground text-ink outline-none">
          {waiting && <Page files={waiting.files} target={waiting.target} close={close} />}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
