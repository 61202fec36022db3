import { describe, expect, it } from "vitest";
import { joinLines, leafOrder } from "./merge-tree";

interface Join {
  left: number;
  right: number;
}

/** A random tree as the server writes it: a join keeps its left end as the name of the whole. */
function randomJoins(count: number, seed: number): Join[] {
  let state = seed;
  const next = (below: number) => {
    state = (state * 1103515245 + 12345) % 2147483648;
    return Math.floor((state / 2147483648) * below);
  };
  const alive = Array.from({ length: count }, (_, place) => place);
  const joins: Join[] = [];
  while (alive.length > 1) {
    const left = alive.splice(next(alive.length), 1)[0] as number;
    const right = alive.splice(next(alive.length), 1)[0] as number;
    joins.push({ left, right });
    alive.push(left);
  }
  return joins;
}

describe("the order of a merge tree's leaves", () => {
  it("keeps the strip's order where nothing joins", () => {
    expect(leafOrder(4, [])).toEqual([0, 1, 2, 3]);
  });
  it("lays what joins side by side", () => {
    expect(leafOrder(4, [{ left: 0, right: 3 }])).toEqual([0, 3, 1, 2]);
  });
  it.each([1, 2, 3, 4, 5, 6, 7, 8])("leaves every cluster of random tree %i in one piece", (seed) => {
    const joins = randomJoins(24, seed);
    const order = leafOrder(24, joins);
    expect([...order].sort((a, b) => a - b)).toEqual(Array.from({ length: 24 }, (_, place) => place));
    const members = new Map(order.map((place) => [place, [place]]));
    for (const { left, right } of joins) {
      const cluster = [...(members.get(left) ?? []), ...(members.get(right) ?? [])];
      members.set(left, cluster);
      const places = cluster.map((leaf) => order.indexOf(leaf));
      expect(Math.max(...places) - Math.min(...places)).toBe(cluster.length - 1);
    }
  });
});

describe("the lines of a merge tree", () => {
  it("stand in the middle of their leaves' columns, and halfway between what they join", () => {
    const joins = [
      { left: 0, right: 2, height: 3 },
      { left: 0, right: 1, height: 8 },
    ];
    const [first, second] = joinLines(leafOrder(3, joins), joins, 10);
    expect(first).toEqual({ key: "0-2", a: { x: 5, height: 0 }, b: { x: 15, height: 0 }, height: 3 });
    expect(second).toEqual({ key: "0-1", a: { x: 10, height: 3 }, b: { x: 25, height: 0 }, height: 8 });
  });
});
