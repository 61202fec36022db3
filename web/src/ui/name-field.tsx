import { type KeyboardEvent, useRef } from "react";
import { useTyped } from "./use-typed";

interface Props {
  label: string;
  value: string;
  onRename: (name: string) => void;
  /** Enter keeps the name and goes on to the next one. */
  onNext?: () => void;
  className?: string;
  /** Lets other parts of the screen move the focus here. */
  mark?: string;
  readOnly?: boolean;
}

/** A name that is edited where it stands. Escape gives the old one back. */
export function NameField({ label, value, onRename, onNext, className = "", mark, readOnly }: Props) {
  const { text, type, drop } = useTyped(value);
  const left = useRef(false);
  const keep = () => {
    if (!left.current && text.trim() !== value) onRename(text);
    left.current = false;
  };
  const press = (event: KeyboardEvent<HTMLInputElement>) => {
    if (event.key === "Enter") {
      event.preventDefault();
      keep();
      left.current = text.trim() !== value;
      if (onNext) onNext();
      else event.currentTarget.blur();
    } else if (event.key === "Escape") {
      left.current = true;
      drop();
      event.currentTarget.blur();
    }
    event.stopPropagation();
  };
  return (
    <input
      aria-label={label}
      title={readOnly ? text : `${text}: click to rename, Enter for the next`}
      data-mark={mark}
      readOnly={readOnly}
      className={`min-w-0 truncate rounded-xs border-b border-transparent bg-transparent outline-offset-1 hover:border-ink focus:border-ink ${className}`}
      value={text}
      spellCheck={false}
      onChange={(event) => {
        left.current = false;
        type(event.target.value);
      }}
      onFocus={(event) => {
        left.current = false;
        event.target.select();
      }}
      onBlur={keep}
      onKeyDown={press}
    />
  );
}
