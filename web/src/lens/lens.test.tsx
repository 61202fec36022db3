import { act } from "react";
import { createRoot } from "react-dom/client";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { client } from "../api/client";
import { seenCss, seenPixels, seenRgb, useLens, useLensStore } from "./lens";

/** A lens that swaps red and blue, as the server would answer. */
function answer(colors: string) {
  return (colors.match(/.{6}/g) ?? [])
    .map((hex) => hex.slice(4) + hex.slice(2, 4) + hex.slice(0, 2))
    .join("");
}

const asked: string[] = [];
const settled = () => new Promise((done) => setTimeout(done, 0));

function Chip() {
  return <i>{useLens().css("#0000ff")}</i>;
}

beforeEach(() => {
  (globalThis as Record<string, unknown>).IS_REACT_ACT_ENVIRONMENT = true;
  asked.length = 0;
  vi.spyOn(client, "POST").mockImplementation((async (
    _path: string,
    options: { body: { colors: string } },
  ) => {
    asked.push(options.body.colors);
    return { data: { colors: answer(options.body.colors) }, response: new Response() };
  }) as never);
  useLensStore.getState().choose({ id: "swap", label: "swapped", amount: null });
});

afterEach(() => {
  useLensStore.getState().choose(null);
  vi.restoreAllMocks();
});

describe("what is seen through a lens", () => {
  it("is asked of the server once for each color, all of one moment together", async () => {
    expect(seenCss("#112233")).toBe("#112233");
    seenCss("#445566");
    seenRgb(0x11, 0x22, 0x33);
    await settled();
    expect(asked).toEqual(["112233445566"]);
    expect(seenCss("#112233")).toBe("#332211");
    expect(seenCss("#11223380")).toBe("#33221180");
    expect(seenRgb(0x44, 0x55, 0x66)).toEqual([0x66, 0x55, 0x44]);
    await settled();
    expect(asked.length).toBe(1);
  });

  it("leaves alpha and the pixels it was given as they are", async () => {
    const own = new Uint8ClampedArray([1, 2, 3, 77, 9, 9, 9, 0]);
    seenPixels(own);
    await settled();
    expect([...seenPixels(own)]).toEqual([3, 2, 1, 77, 9, 9, 9, 0]);
    expect([...own]).toEqual([1, 2, 3, 77, 9, 9, 9, 0]);
  });

  it("is forgotten with the lens", async () => {
    seenCss("#112233");
    await settled();
    useLensStore.getState().choose(null);
    expect(seenCss("#112233")).toBe("#112233");
    await settled();
    expect(asked.length).toBe(1);
  });

  it("is drawn anew when the answer is there", async () => {
    const box = document.createElement("div");
    const root = createRoot(box);
    await act(async () => root.render(<Chip />));
    await act(settled);
    expect(box.textContent).toBe("#ff0000");
    await act(async () => useLensStore.getState().choose(null));
    expect(box.textContent).toBe("#0000ff");
    await act(async () => root.unmount());
  });

  it("does not mix up two lenses while an answer is under way", async () => {
    seenCss("#112233");
    const late = settled();
    useLensStore.getState().choose({ id: "other", label: "other", amount: 3 });
    await late;
    await settled();
    seenCss("#112233");
    await settled();
    expect(vi.mocked(client.POST).mock.calls.at(-1)?.[1]).toMatchObject({
      params: { path: { lens_id: "other" } },
      body: { amount: 3 },
    });
  });
});
