import { act, Suspense, useState } from "react";
import { createRoot } from "react-dom/client";
import { describe, expect, it, vi } from "vitest";
import { later } from "./later";

(globalThis as { IS_REACT_ACT_ENVIRONMENT?: boolean }).IS_REACT_ACT_ENVIRONMENT = true;

/** Counts how often it is pressed, which is lost with it. */
function Counter({ word }: { word: string }) {
  const [count, setCount] = useState(0);
  return (
    <button type="button" onClick={() => setCount(count + 1)}>
      {word} {count}
    </button>
  );
}

function drawn(Shown: ReturnType<typeof later<{ word: string }>>) {
  const box = document.createElement("div");
  const root = createRoot(box);
  const draw = (word: string) =>
    root.render(
      <Suspense fallback="…">
        <Shown word={word} />
      </Suspense>,
    );
  return { box, draw };
}

describe("a component whose code comes later", () => {
  it("is drawn at once where it is there, without a fallback for a moment", async () => {
    const Shown = later<{ word: string }>(async () => Counter);
    await Shown.load();
    const { box, draw } = drawn(Shown);
    act(() => draw("pressed"));
    expect(box.textContent).toBe("pressed 0");
  });
  it("falls back until it is there, and keeps what it holds from then on", async () => {
    let come: (component: typeof Counter) => void = () => undefined;
    const fetched = vi.fn(() => new Promise<typeof Counter>((done) => (come = done)));
    const Shown = later<{ word: string }>(fetched);
    const { box, draw } = drawn(Shown);
    await act(async () => draw("pressed"));
    expect(box.textContent).toBe("…");
    await act(async () => come(Counter));
    await act(async () => box.querySelector("button")?.click());
    await act(async () => draw("still"));
    expect(box.textContent).toBe("still 1");
    expect(fetched).toHaveBeenCalledTimes(1);
  });
  it("is asked for again where it could not be fetched", async () => {
    const fetched = vi.fn().mockRejectedValueOnce(new Error("away")).mockResolvedValue(Counter);
    const Shown = later<{ word: string }>(fetched);
    await expect(Shown.load()).rejects.toThrow("away");
    await expect(Shown.load()).resolves.toEqual({ default: Counter });
  });
});
