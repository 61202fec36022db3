import { useEffect, useState } from "react";

/** A value once it has not become another one for some milliseconds; for none of them, at once. */
export function useSettled<Value>(value: Value, ms: number): Value {
  const [settled, setSettled] = useState(value);
  useEffect(() => {
    if (ms === 0) {
      setSettled(() => value);
      return;
    }
    const timer = setTimeout(() => setSettled(() => value), ms);
    return () => clearTimeout(timer);
  }, [value, ms]);
  return settled;
}
