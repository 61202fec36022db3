import type { Schemas } from "../api/types";

const NOTHING = "left out";

/** The first rows of a table, with a menu over each column that says what it means. */
export function TableColumns({
  name,
  columns,
  meanings,
  onChange,
}: {
  name: string;
  columns: Schemas["ColumnsOut"];
  meanings: readonly string[];
  onChange: (meanings: string[]) => void;
}) {
  const choose = (place: number, meaning: string) =>
    // A channel is one column: where another one had it, that is left out now.
    onChange(
      meanings.map((other, at) =>
        at === place ? meaning : meaning.includes(".") && other === meaning ? "" : other,
      ),
    );
  return (
    <div className="max-h-full w-full overflow-auto">
      <table className="border-collapse text-small">
        <caption className="pb-1.5 text-left text-quiet">
          What each column of {name} means. Correct it where the guess is wrong.
        </caption>
        <thead>
          <tr>
            {meanings.map((meaning, place) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: columns are their places
              <td key={place} className="p-0 pr-1 pb-1">
                <select
                  aria-label={`Meaning of column ${place + 1}${columns.head[place] ? `, ${columns.head[place]}` : ""}`}
                  value={meaning}
                  className={`h-8 w-full min-w-24 rounded-md border px-1 ${meaning ? "border-ink bg-raised font-semibold" : "border-line bg-transparent text-quiet"}`}
                  onChange={(event) => choose(place, event.target.value)}
                >
                  <option value="">{NOTHING}</option>
                  {columns.choices.map((choice) => (
                    <option key={choice.id} value={choice.id}>
                      {choice.label}
                    </option>
                  ))}
                </select>
              </td>
            ))}
          </tr>
          {columns.head.length > 0 && (
            <tr className="border-b border-ink text-left">
              {columns.head.map((cell, place) => (
                // biome-ignore lint/suspicious/noArrayIndexKey: columns are their places
                <th key={place} scope="col" className="max-w-52 truncate px-1.5 py-1">
                  {cell}
                </th>
              ))}
            </tr>
          )}
        </thead>
        <tbody>
          {columns.rows.map((row, line) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: rows are their places
            <tr key={line} className="border-b border-line">
              {row.map((cell, place) => (
                <td
                  // biome-ignore lint/suspicious/noArrayIndexKey: columns are their places
                  key={place}
                  className={`max-w-52 truncate px-1.5 py-1 ${meanings[place] ? "" : "text-quiet"}`}
                >
                  {cell}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
