import { act } from "react";
import { createRoot } from "react-dom/client";
import { afterEach, expect, it, vi } from "vitest";
import { focusMark } from "./marks";
import { ActionPanel } from "./sentence";

(globalThis as { IS_REACT_ACT_ENVIRONMENT?: boolean }).IS_REACT_ACT_ENVIRONMENT = true;

const frames = (count: number) =>
  act(async () => {
    for (let frame = 0; frame < count; frame++) await new Promise((done) => requestAnimationFrame(done));
  });

/** What has to come, however many frames it takes. */
const comes = (check: () => void) => act(() => vi.waitFor(check));

/** Everything that is set to happen next has happened: timers of one delay ring in the order in which they were set. */
const afterTimers = () => act(() => new Promise((done) => setTimeout(done)));

let leave = () => {};
afterEach(() => act(async () => leave()));

async function shown(isDisabled: boolean) {
  const place = document.createElement("div");
  document.body.append(place);
  const root = createRoot(place);
  const draw = (disabled: boolean) =>
    act(async () =>
      root.render(
        <ActionPanel label="Group …" mark="group" disabled={disabled}>
          {() => <input aria-label="Name of the group" />}
        </ActionPanel>,
      ),
    );
  leave = () => {
    root.unmount();
    place.remove();
  };
  await draw(isDisabled);
  return draw;
}

const field = () => document.querySelector("[aria-label='Name of the group']");

it("opens a panel by its mark, and its button stays the one that had the focus", async () => {
  await shown(false);
  const button = document.querySelector("button");
  focusMark("group", true);
  await comes(() => expect(document.activeElement).toBe(field()));
  expect(field()).not.toBeNull();
  expect(document.querySelector("button")).toBe(button);
  expect(button?.getAttribute("aria-expanded")).toBe("true");
});

it("gives the focus back to its button when it closes, unless somebody has taken it meanwhile", async () => {
  await shown(false);
  const other = document.body.appendChild(document.createElement("input"));
  const pressEscape = () =>
    act(async () => {
      document.activeElement?.dispatchEvent(
        new KeyboardEvent("keydown", { key: "Escape", bubbles: true, cancelable: true }),
      );
    });
  const open = async () => {
    focusMark("group", true);
    await comes(() => expect(field()).not.toBeNull());
    await comes(() => expect(document.activeElement).toBe(field()));
  };
  await open();
  await pressEscape();
  await comes(() => expect(document.activeElement).toBe(document.querySelector("button")));
  await open();
  // The panel is gone at once, and the focus goes back with a timer: in between somebody takes it.
  act(() => {
    document.activeElement?.dispatchEvent(
      new KeyboardEvent("keydown", { key: "Escape", bubbles: true, cancelable: true }),
    );
  });
  expect(field()).toBeNull();
  other.focus();
  await afterTimers();
  expect(document.activeElement).toBe(other);
  other.remove();
});

it("waits for what cannot be pressed yet", async () => {
  const draw = await shown(true);
  focusMark("group", true);
  await frames(70);
  expect(field()).toBeNull();
  await draw(false);
  await comes(() => expect(field()).not.toBeNull());
});

it("opens nothing once somebody does something else", async () => {
  const draw = await shown(true);
  focusMark("group", true);
  await frames(3);
  document.body.dispatchEvent(new KeyboardEvent("keydown", { key: "x", bubbles: true }));
  await draw(false);
  await frames(3);
  expect(field()).toBeNull();
});
