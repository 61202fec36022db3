import { Popover } from "radix-ui";
import { type KeyboardEvent, type ReactNode, type RefObject, useId, useRef, useState } from "react";
import { TextButton } from "./button";
import { passOn } from "./keys";
import { giveFocusBack, isFocusNowhere } from "./marks";
import { Slider } from "./slider";
import { useTyped } from "./use-typed";

/** The recipe sentence: plain text whose underlined words are its controls. */
export function Sentence({ label, children }: { label: string; children: ReactNode }) {
  return (
    <fieldset className="m-0 min-w-0 border-0 p-0">
      <legend className="sr-only">{label}</legend>
      <p className="text-sentence leading-[2] font-normal tracking-[-0.005em]">{children}</p>
    </fieldset>
  );
}

export const PANEL =
  "z-40 max-h-[min(520px,var(--radix-popover-content-available-height))] overflow-y-auto rounded-md border border-ink bg-raised p-3 text-body leading-snug text-ink shadow-lg outline-none";

function clamp(value: number, min: number, max: number) {
  return Math.min(max, Math.max(min, Math.round(value)));
}

/** A whole count of 1/scale as it is read and typed: 35 at a scale of 10 is 3.5. */
function written(value: number, scale: number) {
  return scale === 1 ? String(value) : (value / scale).toFixed(Math.round(Math.log10(scale)));
}

/** Whether a key would type something that no number has. */
export function isNoDigit(
  event: { key: string; ctrlKey: boolean; metaKey: boolean; altKey: boolean },
  scale: number,
) {
  if (event.ctrlKey || event.metaKey || event.altKey || event.key.length !== 1) return false;
  return !/[0-9]/.test(event.key) && !(event.key === "." && scale !== 1);
}

interface NumberProps {
  label: string;
  value: number;
  min: number;
  max: number;
  unit: (value: number) => string;
  hint: string;
  /** Values are whole counts of 1/scale, so that 10 gives one decimal. */
  scale?: number;
  onChange: (value: number) => void;
}

/** A number in the sentence: type over it, step it with the arrows (Shift: by ten), or slide. */
export function NumberWord({ label, value, min, max, unit, hint, scale = 1, onChange }: NumberProps) {
  const [typing, setTyping] = useState(false);
  const typed = useTyped(written(value, scale), { held: typing });
  const { text } = typed;
  const [open, setOpen] = useState(false);
  const field = useRef<HTMLInputElement>(null);
  const rest = () => {
    setTyping(false);
    typed.drop();
  };

  const step = (event: KeyboardEvent) => {
    const size = event.shiftKey ? 10 : 1;
    const direction = { ArrowUp: 1, ArrowDown: -1 }[event.key];
    if (direction) {
      event.preventDefault();
      rest();
      onChange(clamp(value + direction * size, min, max));
    } else if (event.key === "Enter") {
      settle();
      field.current?.select();
    } else if (event.key === "Escape") {
      rest();
      setOpen(false);
      // In a panel the focus stays: without it the panel would close with its number.
      if (!field.current?.closest("[role=dialog]")) field.current?.blur();
    } else if (isNoDigit(event, scale)) {
      // A letter does nothing to a number. What it does elsewhere, it does: the bench's keys ask for this mark.
      event.preventDefault();
      passOn(event.nativeEvent);
      return;
    }
    event.stopPropagation();
  };
  const settle = () => {
    rest();
    const number = Number.parseFloat(text) * scale;
    const settled = Number.isFinite(number) ? clamp(number, min, max) : value;
    if (settled !== value) onChange(settled);
  };
  const type = (next: string) => {
    const digits = next.replace(scale === 1 ? /\D/g : /[^\d.]/g, "").slice(0, scale === 1 ? 4 : 6);
    setTyping(true);
    typed.type(digits);
    const number = Math.round(Number.parseFloat(digits) * scale);
    if (number >= min && number <= max) onChange(number);
  };
  const beyond = text !== "" && (Number(text) * scale > max || Number(text) * scale < min);
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
          className={`${PANEL} w-80`}
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
            <span className="w-7 text-right text-small text-quiet">{min / scale}</span>
            <Slider
              label={`${label}, slider`}
              value={value}
              min={min}
              max={max}
              step={1}
              onChange={onChange}
            />
            <span className="w-7 text-small text-quiet">{max / scale}</span>
          </div>
          {beyond ? (
            <p role="alert" className="text-small font-semibold">
              {text} is{" "}
              {Number(text) * scale > max
                ? `more than ${max / scale}, the most`
                : `less than ${min / scale}, the least`}{" "}
              there can be here.
            </p>
          ) : (
            <p className="text-small text-quiet">{hint}</p>
          )}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

interface WordProps {
  label: string;
  text: string;
  wide?: boolean | "twice";
  children: ReactNode;
}

const WIDTHS = { true: "w-[460px]", false: "w-80", twice: "w-[min(720px,calc(100vw-20px))]" };

/** A word that opens a panel of its own. */
export function PanelWord({ label, text, wide, children }: WordProps) {
  return (
    <Popover.Root>
      <Popover.Trigger asChild>
        <button
          type="button"
          aria-label={`${label}: ${text}`}
          className="word whitespace-nowrap hover:bg-raised"
        >
          {text}
          <span aria-hidden="true" className="ml-1 inline-block translate-y-[-2px] text-tiny">
            ▾
          </span>
        </button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          onCloseAutoFocus={giveFocusBack}
          className={`${PANEL} ${WIDTHS[`${wide ?? false}`]}`}
          align="start"
          sideOffset={6}
          collisionPadding={10}
          aria-label={label}
        >
          {children}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

interface TextProps {
  label: string;
  value: string;
  onChange: (value: string) => void;
}

/** A name in the sentence, typed where it stands. */
export function TextWord({ label, value, onChange }: TextProps) {
  return (
    <input
      aria-label={label}
      className="word field-sizing-content max-w-80 min-w-12 bg-transparent align-baseline outline-offset-2 hover:bg-raised"
      value={value}
      spellCheck={false}
      onChange={(event) => onChange(event.target.value)}
      onKeyDown={(event) => event.key !== "Escape" && event.stopPropagation()}
    />
  );
}

interface ActionProps {
  label: string;
  className?: string;
  mark?: string;
  disabled?: boolean;
  onOpen?: () => void;
  onClose?: () => void;
  wide?: boolean;
  /** Its whole name, where several on a page bear the same label. */
  about?: string;
  children: (close: () => void) => ReactNode;
}

/** A plain word that opens a small panel in which something is done. */
export function ActionPanel({
  label,
  about,
  className,
  mark,
  disabled,
  onOpen,
  onClose,
  wide,
  children,
}: ActionProps) {
  const [open, setOpen] = useState(false);
  const [isWanted, setIsWanted] = useState(false);
  const wentElsewhere = useRef(false);
  const button = useRef<HTMLButtonElement>(null);
  const panel = useId();
  const turn = (next: boolean) => {
    setOpen(next);
    if (next) {
      setIsWanted(true);
      wentElsewhere.current = false;
      onOpen?.();
    } else onClose?.();
  };
  return (
    <>
      <TextButton
        ref={button}
        data-mark={mark}
        disabled={disabled}
        className={className}
        aria-label={about}
        aria-haspopup="dialog"
        aria-expanded={open}
        aria-controls={open ? panel : undefined}
        onClick={() => turn(!open)}
      >
        {label}
      </TextButton>
      {/* Until it is wanted a panel is its button alone: lists and toolbars have many of them, and draw them again at each press. */}
      {isWanted && (
        <Popover.Root open={open} onOpenChange={turn}>
          <Popover.Anchor virtualRef={button as RefObject<HTMLButtonElement>} />
          <Popover.Portal>
            <Popover.Content
              id={panel}
              className={`${PANEL} ${wide ? "w-[470px]" : "w-80"}`}
              align="start"
              sideOffset={6}
              collisionPadding={10}
              aria-label={about ?? label}
              onInteractOutside={(event) => {
                // The button closes it by itself; who goes elsewhere is not called back to it.
                if (button.current?.contains(event.target as Node)) event.preventDefault();
                else wentElsewhere.current = true;
              }}
              onCloseAutoFocus={(event) => {
                event.preventDefault();
                if (!wentElsewhere.current && isFocusNowhere()) button.current?.focus();
              }}
            >
              {children(() => turn(false))}
            </Popover.Content>
          </Popover.Portal>
        </Popover.Root>
      )}
    </>
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
  /** A picture of what a choice does, drawn while the panel is open. */
  picture?: (id: string) => ReactNode;
  onChange: (id: string) => void;
}

/** A word with a few choices, each with the sentence that says when to take it. */
export function ChoiceWord({ label, value, choices, picture, onChange }: ChoiceProps) {
  const current = choices.find((choice) => choice.id === value);
  return (
    <PanelWord
      label={label}
      text={current?.label ?? value}
      wide={picture ? (choices.length > 2 ? "twice" : true) : false}
    >
      <fieldset
        className={`m-0 grid gap-1 border-0 p-0 ${picture && choices.length > 2 ? "grid-cols-2" : ""}`}
      >
        <legend className="sr-only">{label}</legend>
        {choices.map((choice) => (
          <label
            key={choice.id}
            className={`grid cursor-pointer items-start rounded px-1.5 py-1 hover:bg-ground has-focus-visible:outline-2 has-focus-visible:outline-ink ${picture ? "grid-cols-[20px_120px_1fr] gap-x-2" : "grid-cols-[20px_1fr]"}`}
          >
            <input
              type="radio"
              name={label}
              checked={choice.id === value}
              onChange={() => onChange(choice.id)}
              className="mt-1 accent-ink outline-none"
            />
            {picture?.(choice.id)}
            <span>
              <span className="block font-semibold">{choice.label}</span>
              <span className="block text-small text-quiet">{choice.use}</span>
            </span>
          </label>
        ))}
      </fieldset>
    </PanelWord>
  );
}
