import { act, type ReactNode } from "react";
import { createRoot, type Root } from "react-dom/client";
import { afterEach, beforeEach, expect, it, vi } from "vitest";
import { MenuList } from "./menu-list";
import { ViewTabs } from "./view-tabs";

(globalThis as { IS_REACT_ACT_ENVIRONMENT?: boolean }).IS_REACT_ACT_ENVIRONMENT = true;

let box: HTMLElement;
let root: Root;

beforeEach(() => {
  box = document.createElement("div");
  document.body.append(box);
  root = createRoot(box);
});
afterEach(() => {
  act(() => root.unmount());
  box.remove();
});

const show = (part: ReactNode) => act(() => root.render(part));
const focused = () => document.activeElement?.textContent;

/** Keys as fast as they can be pressed: nothing that waits for a moment later comes between them. */
function press(...keys: string[]) {
  act(() => {
    for (const key of keys)
      document.activeElement?.dispatchEvent(
        new KeyboardEvent("keydown", { key, bubbles: true, cancelable: true }),
      );
  });
}

it("moves through a menu as fast as keys come", () => {
  const run = vi.fn();
  const entry = (label: string, disabled = false) => ({ label, disabled, run: () => run(label) });
  const entries = [entry("Copy"), entry("Cut"), null, entry("Paste", true), entry("Rename"), entry("Lock")];
  show(<MenuList label="Menu" open={{ entries, x: 0, y: 0 }} onClose={() => undefined} />);
  act(() => document.querySelector<HTMLElement>("[role=menu]")?.focus());
  press("ArrowDown", "ArrowDown", "ArrowDown");
  expect(focused()).toBe("Rename");
  press("End", "ArrowDown");
  expect(focused()).toBe("Lock");
  press("Home", "ArrowUp", "ArrowDown", "Enter");
  expect(run.mock.calls).toEqual([["Cut"]]);
});

it("goes round through tabs, and leaves an arrow with another key alone", () => {
  const views = ["one", "two", "three"].map((id) => ({ id, label: id }));
  show(
    <ViewTabs label="Views" views={views} view="one" onChange={() => undefined}>
      {null}
    </ViewTabs>,
  );
  act(() => document.querySelector<HTMLElement>("[role=tab]")?.focus());
  press("ArrowRight", "ArrowRight", "ArrowRight", "ArrowLeft");
  expect(focused()).toBe("three");
  act(() => {
    document.activeElement?.dispatchEvent(
      new KeyboardEvent("keydown", { key: "ArrowLeft", altKey: true, bubbles: true }),
    );
  });
  expect(focused()).toBe("three");
});
