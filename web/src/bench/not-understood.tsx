import { useState } from "react";
import { TextButton } from "../ui/button";
import { usePalette } from "./context";

/** What the stored form of the palette holds and this version cannot read; the step itself stays as it was stored. */
export function NotUnderstood() {
  const palette = usePalette();
  const [whole, setWhole] = useState(false);
  const count = palette.not_understood.length;
  if (count === 0) return null;
  const shown = whole ? palette.not_understood : palette.not_understood.slice(0, 1);
  return (
    <section
      role="alert"
      aria-label="Not understood"
      className="mx-5 mt-1 max-h-32 shrink-0 overflow-y-auto border-l-4 border-ink bg-panel px-3 py-1.5 text-small"
    >
      <p>
        <strong className="font-semibold">Not all of this palette could be understood.</strong> What could is
        shown; the step is kept as it was stored, and stays in the history.
      </p>
      <ul className="m-0 list-none p-0 text-quiet">
        {shown.map((sentence) => (
          <li key={sentence}>{sentence}</li>
        ))}
      </ul>
      {count > 1 && (
        <TextButton className="-ml-1.5" onClick={() => setWhole(!whole)}>
          {whole ? "Show less" : `${count - 1} more`}
        </TextButton>
      )}
    </section>
  );
}
