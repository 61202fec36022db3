import { afterEach, describe, expect, it } from "vitest";
import { isForThePage, passOn } from "./keys";

function pressed(field: HTMLElement, key: string, more: KeyboardEventInit = {}) {
  let isForIt = false;
  const listen = (event: KeyboardEvent) => {
    isForIt = isForThePage(event);
  };
  document.addEventListener("keydown", listen);
  field.dispatchEvent(new KeyboardEvent("keydown", { key, bubbles: true, cancelable: true, ...more }));
  document.removeEventListener("keydown", listen);
  return isForIt;
}
function field(tag: string, type?: string) {
  const made = document.createElement(tag);
  if (type) (made as HTMLInputElement).type = type;
  document.body.append(made);
  return made as HTMLInputElement;
}
afterEach(() => document.body.replaceChildren());

describe("a key is for the page", () => {
  it("unless it is typed into a field", () => {
    expect(pressed(field("button"), "k")).toBe(true);
    for (const typed of [field("input", "text"), field("textarea"), field("select")])
      expect(pressed(typed, "k")).toBe(false);
    expect(pressed(field("input", "radio"), "k")).toBe(true);
    expect(pressed(field("input", "checkbox"), "k")).toBe(true);
  });
  it("on a slider, unless it moves that", () => {
    const slider = field("input", "range");
    for (const key of ["k", "2", "Delete", "Escape", "+"]) expect(pressed(slider, key)).toBe(true);
    expect(pressed(slider, "z", { ctrlKey: true })).toBe(true);
    for (const key of ["ArrowUp", "ArrowLeft", "Home", "End", "PageDown"])
      expect(pressed(slider, key)).toBe(false);
    for (const other of [field("button"), field("input", "checkbox")])
      expect(pressed(other, "End")).toBe(true);
  });
  it("in a number field that is not being edited, where it is a letter or undo", () => {
    const number = field("input", "number");
    for (const key of ["k", "L", "é"]) expect(pressed(number, key)).toBe(true);
    for (const key of ["1", ".", "-", "e", "E", "ArrowUp", "Backspace", "Enter", " "])
      expect(pressed(number, key)).toBe(false);
    expect(pressed(number, "z", { ctrlKey: true })).toBe(true);
    expect(pressed(number, "a", { ctrlKey: true })).toBe(false);
    expect(pressed(number, "k", { altKey: true })).toBe(false);
  });
  it("and not while that is being edited, until it has taken what was typed or is left and come back to", () => {
    const number = field("input", "number");
    for (const end of ["change", "focusin"]) {
      number.dispatchEvent(new Event("input", { bubbles: true }));
      expect(pressed(number, "k")).toBe(false);
      expect(pressed(number, "z", { ctrlKey: true })).toBe(false);
      number.dispatchEvent(new Event(end, { bubbles: true }));
      expect(pressed(number, "k")).toBe(true);
    }
  });
  it("in a text field where it is undo, while nothing was typed that the field or its form has not taken", () => {
    const form = document.body.appendChild(document.createElement("form"));
    const text = field("input", "text");
    form.append(text);
    const undoes = () => pressed(text, "z", { ctrlKey: true });
    expect([undoes(), pressed(text, "k"), pressed(text, "a", { ctrlKey: true })]).toEqual([
      true,
      false,
      false,
    ]);
    for (const [end, of] of [
      ["change", text],
      ["submit", form],
    ] as const) {
      text.dispatchEvent(new Event("input", { bubbles: true }));
      expect(undoes()).toBe(false);
      of.dispatchEvent(new Event(end, { bubbles: true, cancelable: true }));
      expect(undoes()).toBe(true);
    }
  });
  it("where a field passes it on, and not where something else has used it", () => {
    const text = field("input", "text");
    text.addEventListener("keydown", passOn);
    expect(pressed(text, "k")).toBe(true);
    const button = field("button");
    button.addEventListener("keydown", (event) => event.preventDefault());
    expect(pressed(button, "k")).toBe(false);
  });
});
