import { useState } from "react";

/**
 * What is typed over a value: the value itself where nothing is. It gives way when the value becomes another one, as it does
 * once what was typed has been kept, unless it is being `held`.
 */
export function useTyped(value: string, { held = false } = {}) {
  const [typed, setTyped] = useState<{ text: string; over: string } | null>(null);
  const text = typed && (held || typed.over === value) ? typed.text : value;
  return {
    text,
    type: (next: string) => setTyped({ text: next, over: value }),
    /** Show the value again. */
    drop: () => setTyped(null),
  };
}
