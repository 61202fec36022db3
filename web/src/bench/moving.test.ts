import { describe, expect, it, vi } from "vitest";
import type { Swatch } from "../api/types";
import { Carry, distance, gapInWords, movedWith } from "./moving";

const SHOWN = ["Ink", "Leaf", "Lamp"].map((name) => ({
  id: name.toLowerCase(),
  name,
})) as unknown as Swatch[];
const CELL = { left: 10, right: 20, top: 0, bottom: 10 };

describe("carrying swatches", () => {
  it("moves all that are selected with one of them, in the order of the strip", () => {
    expect(movedWith("lamp", SHOWN, new Set(["lamp", "ink"]))).toEqual(["ink", "lamp"]);
    expect(movedWith("leaf", SHOWN, new Set(["lamp", "ink"]))).toEqual(["leaf"]);
  });
  it("says where a gap is", () => {
    expect(gapInWords(0, SHOWN)).toBe("Before Ink.");
    expect(gapInWords(1, SHOWN)).toBe("Between Ink and Leaf.");
    expect(gapInWords(3, SHOWN)).toBe("Behind Lamp.");
    expect(gapInWords(9, SHOWN)).toBe("Place 9.");
  });
  it("is near by the edge of a cell, and by its row more than by its column", () => {
    expect(distance({ x: 12, y: 5 }, CELL, 0)).toBe(2);
    expect(distance({ x: 12, y: 5 }, CELL, 1)).toBe(8);
    expect(distance({ x: 12, y: 13 }, CELL, 0)).toBe(2 + 3 * 20);
    expect(distance({ x: 12, y: -1 }, CELL, 0)).toBe(2 + 20);
  });
});

describe("carrying by keys", () => {
  /** Two rows of two places, the last of them empty. */
  function box() {
    const made = document.createElement("div");
    for (const index of [0, 1, 2, 3]) {
      const cell = made.appendChild(document.createElement("span"));
      if (index === 3) cell.dataset.empty = "3";
      else {
        cell.dataset.swatch = `s${index}`;
        cell.dataset.index = String(index);
      }
      cell.getBoundingClientRect = () => new DOMRect((index % 2) * 10, Math.floor(index / 2) * 10, 10, 10);
    }
    return made;
  }
  const press = (carry: Carry, code: string, at: HTMLElement) =>
    carry.press({ code, target: at.children[0] as EventTarget, preventDefault: () => undefined }, at);

  it("begins with Space on a swatch alone, and hears every key however fast", () => {
    const carry = new Carry();
    const around = box();
    expect(press(carry, "ArrowRight", around)).toBe(false);
    expect(press(carry, "Space", around)).toBe(true);
    expect(carry.gap).toBe(0);
    expect(press(carry, "ArrowRight", around)).toBe(true);
    expect([carry.place, carry.gap]).toEqual([1, 2]);
    press(carry, "ArrowDown", around);
    expect(carry.place, "an empty place is a place").toBe(3);
    press(carry, "ArrowRight", around);
    expect(carry.place, "no further than the last").toBe(3);
    press(carry, "ArrowLeft", around);
    press(carry, "ArrowUp", around);
    expect([carry.place, carry.gap]).toEqual([0, 0]);
    carry.end();
    expect([carry.isCarrying, carry.gap]).toEqual([false, null]);
    expect(press(carry, "ArrowRight", around)).toBe(false);
  });
  it("keeps every key from the page while it goes on, Escape above all", () => {
    const carry = new Carry();
    const around = box();
    let prevented = 0;
    const event = (code: string) => ({
      code,
      target: around.children[0] as EventTarget,
      preventDefault: () => {
        prevented += 1;
      },
    });
    carry.press(event("Space"), around);
    for (const code of ["KeyK", "Delete", "Escape"]) expect(carry.press(event(code), around)).toBe(true);
    expect(prevented).toBe(3);
    carry.end();
  });
  it("tells the library that it was put down until that has heard, and nothing else on the page", async () => {
    const carry = new Carry();
    const around = box();
    const heard: [string, boolean][] = [];
    const library = (event: KeyboardEvent) => {
      heard.push([event.code, event.defaultPrevented]);
      if (heard.length === 2) carry.end();
    };
    document.addEventListener("keydown", library);
    for (const code of ["Space", "ArrowRight", "Space", "ArrowRight", "ArrowRight"])
      press(carry, code, around);
    expect([carry.place, carry.gap], "keys after it move nothing any more").toEqual([1, 2]);
    await vi.waitFor(() => expect(carry.isCarrying).toBe(false));
    await new Promise((done) => setTimeout(done, 20));
    document.removeEventListener("keydown", library);
    expect(heard).toEqual([
      ["Space", true],
      ["Space", true],
    ]);
    press(carry, "Space", around);
    press(carry, "ArrowRight", around);
    expect(carry.place, "and what is lifted next is carried").toBe(1);
  });
  it("is over where nobody hears", async () => {
    const carry = new Carry();
    const around = box();
    for (const code of ["Space", "Space"]) press(carry, code, around);
    await vi.waitFor(() => expect(carry.isCarrying).toBe(false));
    expect(press(carry, "ArrowRight", around)).toBe(false);
  });
  it("leaves a pointer's carrying to the pointer", () => {
    const carry = new Carry();
    carry.isCarrying = true;
    expect(press(carry, "ArrowRight", box())).toBe(true);
    expect([carry.place, carry.gap]).toEqual([null, null]);
  });
});
