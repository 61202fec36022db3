import { Popover } from "radix-ui";
import { type KeyboardEvent, type ReactNode, useEffect, useRef, useState } from "react";
import { Slider } from "./slider";

/** The recipe sentence: plain text whose underlined words are its controls. */
export function Sentence({ label, children }: { label: string; children: ReactNode }) {
  return (
    <fieldset className="m-0 min-w-0 border-0 p-0">
      <legend className="sr-only">{label}</legend>
      <p className="text-[18px] leading-[2] font-normal tracking-[-0.005em]">{children}</p>
    </fieldset>
  );
}

const PANEL =
  "z-40 w-80 rounded-md border border-ink bg-raised p-3 text-[14px] leading-snug text-ink shadow-lg outline-none";

function clamp(value: number, min: number, max: number) {
  return Math.min(max, Math.max(min, Math.round(value)));
}

interface NumberProps {
  label: string;
  value: number;
  min: number;
  max: number;
  unit: (value: number) => string;
  hint: string;
  onChange: (value: number) => void;
}

/** A number in the sentence: type over it, step it with the arrows (Shift: by ten), or slide. */
export function NumberWord({ label, value, min, max, unit, hint, onChange }: NumberProps) {
  const [text, setText] = useState(String(value));
  const [open, setOpen] = useState(false);
  const field = useRef<HTMLInputElement>(null);
  useEffect(() => setText(String(value)), [value]);

  const step = (event: KeyboardEvent) => {
    const size = event.shiftKey ? 10 : 1;
    const direction = { ArrowUp: 1, ArrowDown: -1 }[event.key];
    if (direction) {
      event.preventDefault();
      onChange(clamp(value + direction * size, min, max));
    } else if (event.key === "Enter") {
      settle();
      field.current?.select();
    } else if (event.key === "Escape") {
      setText(String(value));
      setOpen(false);
    }
    event.stopPropagation();
  };
  const settle = () => {
    const typed = Number.parseInt(text, 10);
    if (Number.isFinite(typed)) onChange(clamp(typed, min, max));
    setText(String(Number.isFinite(typed) ? clamp(typed, min, max) : value));
  };
  const type = (next: string) => {
    const digits = next.replace(/\D/g, "").slice(0, 4);
    setText(digits);
    const typed = Number.parseInt(digits, 10);
    if (typed >= min && typed <= max) onChange(typed);
  };
  const beyond = text !== "" && (Number(text) > max || Number(text) < min);
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Anchor asChild>
        <label className="word inline-flex cursor-text items-baseline whitespace-nowrap hover:bg-raised">
          <input
            ref={field}
            role="spinbutton"
            inputMode="numeric"
            aria-label={label}
            aria-valuenow={value}
            aria-valuemin={min}
            aria-valuemax={max}
            className="field-sizing-content min-w-[1ch] bg-transparent font-semibold outline-none"
            size={Math.max(text.length, 1)}
            value={text}
            onChange={(event) => type(event.target.value)}
            onKeyDown={step}
            onFocus={(event) => {
              event.target.select();
              setOpen(true);
            }}
            onClick={() => setOpen(true)}
            onBlur={settle}
          />
          <span aria-hidden="true">&nbsp;{unit(value)}</span>
        </label>
      </Popover.Anchor>
      <Popover.Portal>
        <Popover.Content
          className={PANEL}
          align="start"
          sideOffset={6}
          aria-label={label}
          onOpenAutoFocus={(event) => event.preventDefault()}
          onCloseAutoFocus={(event) => event.preventDefault()}
          onInteractOutside={(event) => {
            if (field.current?.parentElement?.contains(event.target as Node)) event.preventDefault();
          }}
        >
          <div className="mb-2 flex items-center gap-3">
            <span className="w-7 text-right text-[13px] text-quiet">{min}</span>
            <Slider
              label={`${label}, slider`}
              value={value}
              min={min}
              max={max}
              step={1}
              onChange={onChange}
            />
            <span className="w-7 text-[13px] text-quiet">{max}</span>
          </div>
          {beyond ? (
            <p role="alert" className="text-[13px] font-semibold">
              {text} is {Number(text) > max ? `more than ${max}, the most` : `less than ${min}, the least`}{" "}
              there can be here.
            </p>
          ) : (
            <p className="text-[13px] text-quiet">{hint}</p>
          )}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

interface WordProps {
  label: string;
  text: string;
  children: ReactNode;
}

/** A word that opens a panel of its own. */
export function PanelWord({ label, text, children }: WordProps) {
  return (
    <Popover.Root>
      <Popover.Trigger asChild>
        <button
          type="button"
          aria-label={`${label}: ${text}`}
          className="word whitespace-nowrap hover:bg-raised"
        >
          {text}
          <span aria-hidden="true" className="ml-1 inline-block translate-y-[-2px] text-[10px]">
            ▾
          </span>
        </button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content className={PANEL} align="start" sideOffset={6} aria-label={label}>
          {children}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

export interface Choice {
  id: string;
  label: string;
  use: string;
}

interface ChoiceProps {
  label: string;
  value: string;
  choices: Choice[];
  onChange: (id: string) => void;
}

/** A word with a few choices, each with the sentence that says when to take it. */
export function ChoiceWord({ label, value, choices, onChange }: ChoiceProps) {
  const current = choices.find((choice) => choice.id === value);
  return (
    <PanelWord label={label} text={current?.label ?? value}>
      <fieldset className="m-0 grid gap-1 border-0 p-0">
        <legend className="sr-only">{label}</legend>
        {choices.map((choice) => (
          <label
            key={choice.id}
            className="grid cursor-pointer grid-cols-[20px_1fr] items-start rounded px-1.5 py-1 hover:bg-ground has-focus-visible:outline-2 has-focus-visible:outline-ink"
          >
            <input
              type="radio"
              name={label}
              checked={choice.id === value}
              onChange={() => onChange(choice.id)}
              className="mt-1 accent-ink outline-none"
            />
            <span>
              <span className="block font-semibold">{choice.label}</span>
              <span className="block text-[13px] text-quiet">{choice.use}</span>
            </span>
          </label>
        ))}
      </fieldset>
    </PanelWord>
  );
}
