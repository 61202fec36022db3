import { act } from "react";
import { createRoot } from "react-dom/client";
import { expect, it } from "vitest";
import { Slider, stepped } from "./slider";

(globalThis as { IS_REACT_ACT_ENVIRONMENT?: boolean }).IS_REACT_ACT_ENVIRONMENT = true;

async function shown(value: number) {
  const heard: string[] = [];
  const place = document.body.appendChild(document.createElement("div"));
  const root = createRoot(place);
  const draw = (next: number) =>
    act(async () =>
      root.render(
        <Slider
          label="Chroma"
          value={next}
          min={0}
          max={0.4}
          step={0.001}
          onChange={(moved) => heard.push(`moved ${moved}`)}
          onCommit={(kept) => heard.push(`kept ${kept} at ${next}`)}
        />,
      ),
    );
  await draw(value);
  const input = place.querySelector("input") as HTMLInputElement;
  const slide = (next: string, kind: string) =>
    act(async () => {
      // As the browser does it: past React's own note of the value.
      Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, "value")?.set?.call(input, next);
      input.dispatchEvent(new Event(kind, { bubbles: true }));
    });
  const end = () => act(async () => root.unmount());
  return { heard, draw, input, slide, end };
}

it("tells each value on the way, and once where it was let go", async () => {
  const { heard, draw, slide, end } = await shown(0.1);
  await slide("0.2", "input");
  expect(heard).toEqual(["moved 0.2"]);
  await draw(0.2);
  await slide("0.2", "change");
  expect(heard).toEqual(["moved 0.2", "kept 0.2 at 0.2"]);
  await end();
});

it("goes by ten steps with Shift, and leaves other keys to the browser", async () => {
  const { heard, input, end } = await shown(0.395);
  const press = (key: string, shiftKey: boolean) =>
    act(async () => {
      input.dispatchEvent(new KeyboardEvent("keydown", { key, shiftKey, bubbles: true, cancelable: true }));
    });
  await press("ArrowLeft", true);
  await press("ArrowUp", true);
  await press("ArrowUp", false);
  await press("a", true);
  expect(heard).toEqual(["moved 0.385", "kept 0.385 at 0.395", "moved 0.4", "kept 0.4 at 0.395"]);
  await end();
});

it("steps without the crumbs of floating point, and from a value between two steps", () => {
  const range = { min: 0, max: 1, step: 0.1 };
  expect(stepped(0.2, 1, range)).toBe(0.3);
  expect(stepped(0.7, 1, range)).toBe(0.8);
  expect(stepped(0.34, 1, range)).toBe(0.4);
  expect(stepped(0.95, 9, range)).toBe(1);
  expect(stepped(-170, -20, { min: -180, max: 180, step: 1 })).toBe(-180);
});
