import { describe, expect, it } from "vitest";
import { isForThePage, passOn } from "./keys";
import { isNoDigit } from "./sentence";

const key = (text: string, more = {}) => ({
  key: text,
  ctrlKey: false,
  metaKey: false,
  altKey: false,
  ...more,
});

describe("keys in a number", () => {
  it("are its own where they are digits, moves or commands", () => {
    for (const text of ["0", "9", "ArrowUp", "Backspace", "Enter", "Tab"])
      expect(isNoDigit(key(text), 1)).toBe(false);
    expect(isNoDigit(key("c", { ctrlKey: true }), 1)).toBe(false);
    expect(isNoDigit(key("v", { metaKey: true }), 1)).toBe(false);
    expect(isNoDigit(key("."), 10)).toBe(false);
  });

  it("are none of its business where they are letters, or a point in a whole number", () => {
    for (const text of ["k", "Z", " ", "-", "."]) expect(isNoDigit(key(text), 1)).toBe(true);
    expect(isNoDigit(key("k"), 10)).toBe(true);
  });
});

describe("keys of the page", () => {
  const pressed = (target: HTMLElement) => {
    document.body.append(target);
    let seen: KeyboardEvent | null = null;
    window.addEventListener("keydown", (event) => {
      seen = event;
    });
    target.dispatchEvent(new KeyboardEvent("keydown", { key: "k", bubbles: true, cancelable: true }));
    return seen as unknown as KeyboardEvent;
  };

  it("are not those typed into a field, unless the field passes them on", () => {
    const typed = pressed(document.createElement("input"));
    expect(isForThePage(typed)).toBe(false);
    typed.preventDefault();
    passOn(typed);
    expect(isForThePage(typed)).toBe(true);
  });

  it("are those pressed anywhere else, on a choice as well", () => {
    expect(isForThePage(pressed(document.createElement("div")))).toBe(true);
    const radio = document.createElement("input");
    radio.type = "radio";
    expect(isForThePage(pressed(radio))).toBe(true);
  });
});
