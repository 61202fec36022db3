import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { type Copies, everyNth, WholePainter } from "./large";
import type { Answer, Order } from "./paint-worker";

describe("every nth pixel of a large picture", () => {
  it("is from the middle of those it stands for, over the whole of it", () => {
    const [width, height] = [4000, 3000];
    const indices = new Uint8Array(width * height);
    for (let place = 0; place < indices.length; place++)
      indices[place] = (Math.floor((place % width) / 400) + 10 * Math.floor(place / width / 300)) % 251;
    const small = everyNth(width, height, indices);
    expect([small.width, small.height]).toEqual([1333, 1000]);
    for (const [x, y] of [
      [0, 0],
      [1332, 999],
      [700, 444],
    ] as const) {
      const at = [Math.floor(((x + 0.5) * width) / 1333), Math.floor(((y + 0.5) * height) / 1000)] as const;
      expect(small.indices[y * 1333 + x]).toBe(indices[at[1] * width + at[0]]);
    }
    expect(everyNth(3, 1, new Uint8Array([7, 8, 9]))).toEqual({
      width: 3,
      height: 1,
      indices: new Uint8Array([7, 8, 9]),
    });
  });
});

describe("the thread that paints the whole", () => {
  const source = { width: 2, height: 1, indices: new Uint8Array([0, 1]) };
  const words = (red: number) => new Uint32Array([red, 2]);
  let orders: Order[];
  let thread: { onmessage: ((event: { data: Answer }) => void) | null };
  let painter: WholePainter;
  const answer = (place: number) => {
    const data = { number: orders[place]?.number, copies: [`whole ${place}`] } as unknown as Answer;
    thread.onmessage?.({ data });
    return data;
  };
  beforeEach(() => {
    vi.useFakeTimers();
    orders = [];
    const worker = {
      onmessage: null,
      postMessage: (order: Order) => orders.push(order),
      terminate: vi.fn(),
    };
    thread = worker;
    painter = new WholePainter(() => worker as unknown as Worker);
  });
  afterEach(() => vi.useRealTimers());

  it("paints what is at rest, sends the pixels once, and remembers the last painting", () => {
    const took: Copies[] = [];
    const ask = (red: number) => painter.paint(source, words(red), (made) => took.push(made));
    for (const red of [1, 2, 3]) expect(ask(red)).toBeNull();
    vi.advanceTimersByTime(200);
    expect(orders.map((order) => [order.words[0], order.indices])).toEqual([[3, source.indices]]);
    const made = answer(0);
    expect(took).toEqual([made.copies]);
    expect(ask(3)).toBe(made.copies);
    ask(4);
    vi.advanceTimersByTime(200);
    expect(orders[1]?.indices).toBeNull();
  });

  it("takes no painting that is not wanted any more, nor one of other pixels", () => {
    const took: Copies[] = [];
    const take = (made: Copies) => took.push(made);
    painter.paint(source, words(1), take);
    vi.advanceTimersByTime(200);
    painter.paint(source, words(2), take);
    answer(0);
    expect(took).toEqual([]);
    vi.advanceTimersByTime(200);
    answer(1);
    expect(took.length).toBe(1);
    const other = { ...source, indices: new Uint8Array([1, 1]) };
    expect(painter.paint(other, words(2), take)).toBeNull();
    vi.advanceTimersByTime(200);
    expect(orders[2]?.indices).toBe(other.indices);
  });

  it("takes no painting of a picture before, though it has the same colors", () => {
    const took: Copies[] = [];
    painter.paint(source, words(1), () => undefined);
    vi.advanceTimersByTime(200);
    const other = { ...source, indices: new Uint8Array([1, 1]) };
    painter.paint(other, words(1), (made) => took.push(made));
    vi.advanceTimersByTime(200);
    answer(0);
    expect(took).toEqual([]);
    const made = answer(1);
    expect(took).toEqual([made.copies]);
  });
});
