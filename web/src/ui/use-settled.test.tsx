import { act } from "react";
import { createRoot } from "react-dom/client";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { useSettled } from "./use-settled";

(globalThis as { IS_REACT_ACT_ENVIRONMENT?: boolean }).IS_REACT_ACT_ENVIRONMENT = true;

let seen: string[];
function Field({ text }: { text: string }) {
  seen.push(useSettled(text, text === "" ? 0 : 100));
  return null;
}

beforeEach(() => {
  seen = [];
  vi.useFakeTimers();
});
afterEach(() => vi.useRealTimers());

describe("what is typed", () => {
  it("settles when it rests, by its last letter, and at once where it need not", () => {
    const root = createRoot(document.createElement("div"));
    const type = (text: string) => act(() => root.render(<Field text={text} />));
    const rest = (ms: number) => act(() => vi.advanceTimersByTime(ms));
    type("a");
    for (const text of ["mo", "mot", "moth"]) {
      type(text);
      rest(60);
    }
    expect(seen.at(-1)).toBe("a");
    rest(40);
    expect(seen.at(-1)).toBe("moth");
    expect(seen).not.toContain("mot");
    type("");
    expect(seen.at(-1)).toBe("");
    type("reed");
    act(() => root.unmount());
    rest(200);
    expect(seen).not.toContain("reed");
  });
});
