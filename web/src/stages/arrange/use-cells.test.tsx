import { act } from "react";
import { createRoot, type Root } from "react-dom/client";
import { afterEach, beforeEach, describe, expect, it } from "vitest";
import type { Swatch } from "../../api/types";
import { useScreen } from "../../shell/store";
import { useCells } from "./use-cells";

(globalThis as { IS_REACT_ACT_ENVIRONMENT?: boolean }).IS_REACT_ACT_ENVIRONMENT = true;

const SHOWN = ["a", "b", "c", "d"].map((id) => ({ id, name: id })) as unknown as Swatch[];
let root: Root;
let place: HTMLElement;

/** Four cells of 10 by 10 pixels in a row. */
function Box({ movable }: { movable: boolean }) {
  const { box, marquee, handlers } = useCells({ shown: SHOWN, movable });
  return (
    <div ref={box} id="box" {...handlers}>
      {SHOWN.map(({ id }, index) => (
        <span key={id} data-swatch={id} data-index={index} id={id} />
      ))}
      {marquee && <i id="marquee" />}
    </div>
  );
}

function fire(kind: string, id: string, x: number, more: Partial<PointerEventInit> = {}) {
  const event = new PointerEvent(`pointer${kind}`, {
    bubbles: true,
    clientX: x,
    clientY: 5,
    button: 0,
    ...more,
  });
  act(() => void document.getElementById(id)?.dispatchEvent(event));
}
const selected = () => useScreen.getState().selected;
const click = (id: string, more: Partial<PointerEventInit> = {}) => {
  fire("down", id, 5, more);
  fire("up", id, 5, more);
};

function show(movable: boolean) {
  act(() => root.render(<Box movable={movable} />));
  for (const [index, { id }] of SHOWN.entries()) {
    const cell = document.getElementById(id);
    if (cell) cell.getBoundingClientRect = () => new DOMRect(index * 10, 0, 10, 10);
  }
  const box = document.getElementById("box");
  if (box) box.setPointerCapture = () => undefined;
}

beforeEach(() => {
  place = document.body.appendChild(document.createElement("div"));
  root = createRoot(place);
  useScreen.getState().select([]);
});
afterEach(() => {
  act(() => root.unmount());
  place.remove();
});

describe("selecting cells by pointer", () => {
  it("takes one, with Control one more or one less, with Shift all up to it", () => {
    show(true);
    click("b");
    expect(selected()).toEqual(["b"]);
    click("d", { ctrlKey: true });
    expect(selected()).toEqual(["b", "d"]);
    click("b", { ctrlKey: true });
    expect(selected()).toEqual(["d"]);
    click("d", { shiftKey: true });
    expect(selected(), "from where it was pressed last").toEqual(["b", "c", "d"]);
    click("box");
    expect(selected()).toEqual([]);
  });
  it("keeps several selected while one of them is pressed, until the pointer comes up where it was", () => {
    show(true);
    click("a");
    click("c", { ctrlKey: true });
    fire("down", "a", 5);
    expect(selected()).toEqual(["a", "c"]);
    fire("up", "a", 5);
    expect(selected()).toEqual(["a"]);
  });
  it("leaves the selection to the drag where cells are carried", () => {
    show(true);
    click("a");
    click("c", { ctrlKey: true });
    fire("down", "a", 5);
    fire("move", "a", 30);
    fire("up", "a", 30);
    expect(selected()).toEqual(["a", "c"]);
  });
  it("takes what a drag from beside the cells touches, besides what was there with Control", () => {
    show(true);
    click("d");
    fire("down", "box", 12, { ctrlKey: true });
    fire("move", "box", 14, { ctrlKey: true });
    expect(selected(), "not yet a drag").toEqual(["d"]);
    fire("move", "box", 25, { ctrlKey: true });
    expect(document.getElementById("marquee")).not.toBeNull();
    expect(selected()).toEqual(["d", "b", "c"]);
    fire("up", "box", 25, { ctrlKey: true });
    expect(document.getElementById("marquee")).toBeNull();
  });
  it("draws a rectangle from a cell as well where cells are not carried", () => {
    show(false);
    fire("down", "a", 2);
    fire("move", "a", 15);
    expect(selected()).toEqual(["a", "b"]);
    fire("cancel", "a", 15);
    expect(document.getElementById("marquee")).toBeNull();
  });
  it("says what the pointer is over, and forgets it outside", () => {
    show(true);
    fire("move", "b", 15);
    expect(useScreen.getState().hovered).toBe("b");
    fire("out", "box", 100, { relatedTarget: document.body } as PointerEventInit);
    expect(useScreen.getState().hovered).toBeNull();
  });
});
