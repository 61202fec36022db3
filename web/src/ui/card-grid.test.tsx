import { act, useState } from "react";
import { createRoot, type Root } from "react-dom/client";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { CardGrid } from "./card-grid";

(globalThis as { IS_REACT_ACT_ENVIRONMENT?: boolean }).IS_REACT_ACT_ENVIRONMENT = true;

const WIDTH = 1200;
const HEIGHT = 600;
let box: HTMLElement;
let root: Root;

function Shelf({ count }: { count: number }) {
  const [area, setArea] = useState<HTMLElement | null>(null);
  return (
    <main ref={setArea}>
      <CardGrid
        items={Array.from({ length: count }, (_, place) => place)}
        scroll={area}
        leastWidth={380}
        height={120}
        columnGap={20}
        keyOf={(item) => String(item)}
      >
        {(item) => <span>card {item}</span>}
      </CardGrid>
    </main>
  );
}

beforeEach(() => {
  vi.spyOn(HTMLElement.prototype, "clientWidth", "get").mockReturnValue(WIDTH);
  vi.spyOn(HTMLElement.prototype, "offsetWidth", "get").mockReturnValue(WIDTH);
  vi.spyOn(HTMLElement.prototype, "clientHeight", "get").mockReturnValue(HEIGHT);
  vi.spyOn(HTMLElement.prototype, "offsetHeight", "get").mockReturnValue(HEIGHT);
  vi.spyOn(HTMLElement.prototype, "getBoundingClientRect").mockReturnValue(new DOMRect(0, 0, WIDTH, HEIGHT));
  box = document.createElement("div");
  document.body.append(box);
  root = createRoot(box);
});
afterEach(() => {
  act(() => root.unmount());
  box.remove();
  vi.restoreAllMocks();
});

describe("a grid of cards", () => {
  it("draws every card of a short shelf, in columns of one width", () => {
    act(() => root.render(<Shelf count={7} />));
    const cards = [...box.querySelectorAll<HTMLElement>("li")];
    expect(cards.map((card) => card.textContent)).toEqual(Array.from({ length: 7 }, (_, n) => `card ${n}`));
    expect(new Set(cards.map((card) => card.style.width)).size).toBe(1);
    expect(cards[3]?.style.transform).toBe("translateY(120px)");
    expect(cards[4]?.style.left).toContain("* 1");
    expect(box.querySelector("ul")?.style.height).toBe("360px");
  });

  it("draws of thousands only what is near, and keeps the room of all", () => {
    act(() => root.render(<Shelf count={3000} />));
    const cards = box.querySelectorAll("li");
    expect(cards.length).toBeGreaterThan(10);
    expect(cards.length).toBeLessThan(60);
    expect(box.querySelector("ul")?.style.height).toBe("120000px");
  });

  it("is empty where there is nothing", () => {
    act(() => root.render(<Shelf count={0} />));
    expect(box.querySelectorAll("li")).toHaveLength(0);
    expect(box.querySelector("ul")?.style.height).toBe("0px");
  });
});
