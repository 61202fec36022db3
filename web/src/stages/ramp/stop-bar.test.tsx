import { act } from "react";
import { createRoot, type Root } from "react-dom/client";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { Ramp } from "../../api/types";
import { StopBar } from "./stop-bar";

(globalThis as { IS_REACT_ACT_ENVIRONMENT?: boolean }).IS_REACT_ACT_ENVIRONMENT = true;

const stop = (name: string, position: number, more: Partial<Ramp["stops"][number]> = {}) =>
  ({
    name,
    hex: "#808080",
    alpha: 1,
    position,
    share: position,
    midpoint: null,
    tied: false,
    color: { space: "srgb", coords: [0, 0, 0], alpha: 1 },
    ...more,
  }) as Ramp["stops"][number];
const THREE = [
  stop("Night", 0, { midpoint: 0.2 }),
  stop("Leaf", 0.4, { midpoint: 0.7 }),
  stop("Lamp", 1, { tied: true }),
];

let box: HTMLDivElement;
let root: Root;
const called = {
  onSelect: vi.fn(),
  onMove: vi.fn(),
  onBend: vi.fn(),
  onAdd: vi.fn(),
  onRemove: vi.fn(),
};

beforeEach(() => {
  box = document.createElement("div");
  document.body.append(box);
  root = createRoot(box);
  for (const spy of Object.values(called)) spy.mockReset();
  // The track is a hundred pixels wide, so that a pixel is a percent.
  HTMLElement.prototype.getBoundingClientRect = () =>
    ({ left: 0, right: 100, top: 0, bottom: 32, width: 100, height: 32, x: 0, y: 0 }) as DOMRect;
  HTMLElement.prototype.setPointerCapture = () => undefined;
});
afterEach(() => {
  act(() => root.unmount());
  box.remove();
});

function show(stops: Ramp["stops"], movable = true) {
  act(() => root.render(<StopBar stops={stops} movable={movable} selected={null} {...called} />));
}
const slider = (name: string) => box.querySelector(`[aria-label="${name}"]`) as HTMLElement;
const press = (name: string, key: string, shiftKey = false) =>
  act(() => {
    slider(name).dispatchEvent(
      new KeyboardEvent("keydown", { key, shiftKey, bubbles: true, cancelable: true }),
    );
  });
const pointer = (target: Element, kind: string, x: number, y = 16) =>
  act(() => {
    target.dispatchEvent(new MouseEvent(kind, { clientX: x, clientY: y, bubbles: true, cancelable: true }));
  });

describe("the bar of stops", () => {
  it("moves a stop by a percent, finely with Shift, and to its neighbors", () => {
    show(THREE);
    press("Position of Leaf", "ArrowRight");
    expect(called.onMove).toHaveBeenLastCalledWith([0, 0.41, 1]);
    press("Position of Leaf", "ArrowLeft", true);
    expect(called.onMove).toHaveBeenLastCalledWith([0, 0.399, 1]);
    press("Position of Leaf", "End");
    expect(called.onMove).toHaveBeenLastCalledWith([0, 1, 1]);
    press("Position of Leaf", "Home");
    expect(called.onMove).toHaveBeenLastCalledWith([0, 0, 1]);
    press("Position of Leaf", "x");
    expect(called.onMove).toHaveBeenCalledTimes(4);
  });

  it("bends an interval within it", () => {
    show(THREE);
    press("Midpoint behind Night", "ArrowRight");
    expect(called.onBend).toHaveBeenLastCalledWith(0, 0.525);
    press("Midpoint behind Leaf", "End");
    expect(called.onBend).toHaveBeenLastCalledWith(1, 0.99);
    press("Midpoint behind Leaf", "Home");
    expect(called.onBend).toHaveBeenLastCalledWith(1, 0.01);
    expect(slider("Midpoint behind Lamp")).toBeNull();
  });

  it("takes a stop out with Delete, but not one of the last two", () => {
    show(THREE);
    press("Position of Leaf", "Delete");
    expect(called.onRemove).toHaveBeenCalledWith(1);
    called.onRemove.mockReset();
    show(THREE.slice(0, 2));
    press("Position of Leaf", "Backspace");
    expect(called.onRemove).not.toHaveBeenCalled();
  });

  it("does not move stops that even steps put where they are", () => {
    show(
      THREE.map((entry) => ({ ...entry, midpoint: null })),
      false,
    );
    press("Position of Leaf", "ArrowRight");
    expect(called.onMove).not.toHaveBeenCalled();
    expect(slider("Position of Leaf").getAttribute("aria-disabled")).toBe("true");
  });

  it("adds one where the track is clicked", () => {
    show(THREE);
    pointer(slider("Position of Leaf").parentElement as Element, "click", 70);
    expect(called.onAdd).toHaveBeenCalledWith(0.7);
  });

  it("drags one along, and off it", () => {
    show(THREE);
    const leaf = slider("Position of Leaf");
    const track = leaf.parentElement as Element;
    pointer(leaf, "pointerdown", 40);
    expect(called.onSelect).toHaveBeenCalledWith(1);
    pointer(track, "pointermove", 55);
    expect(called.onMove).toHaveBeenLastCalledWith([0, 0.55, 1]);
    pointer(track, "pointermove", 60, 200);
    expect(called.onMove).toHaveBeenCalledTimes(1);
    pointer(leaf, "pointerup", 60, 200);
    expect(called.onRemove).toHaveBeenCalledWith(1);
    pointer(track, "pointermove", 20);
    expect(called.onMove).toHaveBeenCalledTimes(1);
  });

  it("lets a stop that is dragged away and back again stay", () => {
    show(THREE);
    const leaf = slider("Position of Leaf");
    pointer(leaf, "pointerdown", 40);
    pointer(leaf.parentElement as Element, "pointermove", 40, 200);
    pointer(leaf.parentElement as Element, "pointermove", 45, 16);
    pointer(leaf, "pointerup", 45);
    expect(called.onRemove).not.toHaveBeenCalled();
    expect(called.onMove).toHaveBeenLastCalledWith([0, 0.45, 1]);
  });
});
