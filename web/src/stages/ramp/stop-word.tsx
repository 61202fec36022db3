import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { ask } from "../../api/queries";
import type { RampStop } from "../../api/types";
import { useShown } from "../../bench/context";
import { useLens } from "../../lens/lens";
import { Patch } from "../../lens/patch";
import { Button, TextButton } from "../../ui/button";
import { PanelWord } from "../../ui/sentence";
import { wholeStop } from "./store";

interface Props {
  label: string;
  text: string;
  stop: RampStop | null;
  onChange: (stop: RampStop) => void;
  onRemove?: () => void;
}

/** A stop in the sentence: tied to a swatch of the strip, or typed. */
export function StopWord({ label, text, stop, onChange, onRemove }: Props) {
  const lens = useLens();
  const shown = useShown();
  const [typed, setTyped] = useState("");
  const parsed = useQuery({
    ...ask.parsed(typed.trim()),
  });
  const color = typed.trim() ? parsed.data?.colors[0] : undefined;
  const become = (part: Partial<RampStop>) =>
    onChange(wholeStop({ ...stop, swatch: null, text: null, color: null, ...part }));
  return (
    <PanelWord label={label} text={text}>
      <p className="mb-1.5 text-small text-quiet">A swatch of the strip, which the stop then follows</p>
      <div className="mb-3 grid max-h-32 grid-cols-8 gap-1 overflow-y-auto p-0.5">
        {shown.slice(0, 512).map((swatch, place) => (
          <button
            key={swatch.id}
            type="button"
            aria-label={`${place} ${swatch.name}`}
            title={`${place} · ${swatch.name} · ${swatch.hex}`}
            aria-pressed={stop?.swatch === swatch.id}
            className={`h-7 outline-offset-1 aria-pressed:shadow-[0_0_0_2px_var(--raised),0_0_0_4px_var(--ink)] ${swatch.alpha === 0 ? "checkered" : ""}`}
            style={swatch.alpha === 0 ? undefined : { background: lens.css(swatch.hex) }}
            onClick={() => become({ swatch: swatch.id })}
          />
        ))}
      </div>
      <form
        className="flex items-center gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          if (color) become({ text: typed.trim() });
        }}
      >
        <Patch className="size-7 shrink-0 border border-line" color={color?.hex} aria-hidden="true" />
        <input
          aria-label={`${label}, typed`}
          placeholder="or type a color"
          value={typed}
          spellCheck={false}
          className="h-7 min-w-0 grow border-b border-ink bg-transparent"
          onChange={(event) => setTyped(event.target.value)}
          onKeyDown={(event) => event.key !== "Escape" && event.stopPropagation()}
        />
        <Button type="submit" disabled={!color}>
          Use
        </Button>
      </form>
      {parsed.error && typed.trim() !== "" && (
        <p role="alert" className="mt-2 text-small">
          {parsed.error.message}
        </p>
      )}
      {onRemove && (
        <TextButton className="mt-2 -ml-1.5" onClick={onRemove}>
          Take this stop out
        </TextButton>
      )}
    </PanelWord>
  );
}
