import { RadioGroup } from "radix-ui";
import type { Reading } from "../api/types";
import { Band } from "../lens/chips";

/** Every way in which a file can be taken, as a strip each, the likeliest first. */
export function Readings({
  readings,
  chosen,
  onChoose,
}: {
  readings: readonly Reading[];
  chosen: number;
  onChoose: (place: number) => void;
}) {
  return (
    <RadioGroup.Root
      aria-label="Ways to read it"
      value={String(chosen)}
      onValueChange={(place) => onChoose(Number(place))}
      className="mb-2 flex flex-wrap gap-2"
    >
      {readings.map((reading, place) => (
        <RadioGroup.Item
          key={reading.label}
          value={String(place)}
          title={reading.notes[0]}
          className={`min-w-48 max-w-80 grow basis-48 border px-2 pt-1 pb-2 text-left ${place === chosen ? "border-ink bg-raised" : "border-line hover:bg-panel"}`}
        >
          <span className="mb-1 flex justify-between gap-2 text-small">
            <span className={`truncate ${place === chosen ? "font-semibold" : ""}`}>{reading.label}</span>
            <span className="shrink-0 text-quiet">{reading.swatches.length.toLocaleString("en")}</span>
          </span>
          <Band swatches={reading.swatches.slice(0, 64)} label="" height={16} />
        </RadioGroup.Item>
      ))}
    </RadioGroup.Root>
  );
}

const SHOWN = 2;

/** What is to be said of a reading, a line each; many are folded. */
export function Notes({ notes }: { notes: readonly string[] }) {
  const list = (from: number, to?: number) => (
    <ul className="m-0 list-none p-0">
      {notes.slice(from, to).map((note) => (
        <li key={note}>{note}</li>
      ))}
    </ul>
  );
  return (
    <div className="min-w-0">
      {list(0, SHOWN)}
      {notes.length > SHOWN && (
        <details>
          <summary className="cursor-pointer text-ink">
            {notes.length - SHOWN === 1 ? "1 more note" : `${notes.length - SHOWN} more notes`}
          </summary>
          <div className="max-h-32 overflow-y-auto">{list(SHOWN)}</div>
        </details>
      )}
    </div>
  );
}
