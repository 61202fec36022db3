import { describe, expect, it } from "vitest";
import type { Step } from "../api/types";
import { graphOf, trodden } from "./history-graph";

/** Steps by number and parent, newest first; the head is named. */
function steps(head: number, ...parents: (number | null)[]): Step[] {
  return parents
    .map((parent, place) => ({
      number: place + 1,
      parent,
      is_head: place + 1 === head,
      label: "",
      created: "",
    }))
    .reverse() as Step[];
}

describe("the branches of a history", () => {
  it("are one line where nothing was left behind", () => {
    const graph = graphOf(steps(3, null, 1, 2));
    expect(graph.map((node) => node.lane)).toEqual([0, 0, 0]);
    expect(graph.map((node) => [node.above, node.below])).toEqual([
      [[], [0]],
      [[0], [0]],
      [[0], []],
    ]);
  });

  it("leave the way where another step was made after an undo", () => {
    // 1 ─ 2 ─ 3 (left behind), 2 ─ 4 (now)
    const graph = graphOf(steps(4, null, 1, 2, 2));
    expect(graph.map((node) => node.lane)).toEqual([0, 1, 0, 0]);
    expect(graph[2]?.joins).toEqual([1]);
    expect(graph[1]?.below).toEqual([0, 1]);
    expect(graph[2]?.above).toEqual([0]);
  });

  it("stand above where the palette is after undoing", () => {
    const graph = graphOf(steps(1, null, 1, 2));
    expect(graph.map((node) => node.lane)).toEqual([1, 1, 0]);
    expect(graph[2]?.joins).toEqual([1]);
  });

  it("take lanes of their own where they overlap, and share one where they do not", () => {
    // Two from step 1 that overlap; later one from step 5 that does not.
    const graph = graphOf(steps(7, null, 1, 1, 1, 4, 5, 5));
    const laneOf = (number: number) => graph[7 - number]?.lane;
    expect(trodden(steps(7, null, 1, 1, 1, 4, 5, 5))).toEqual(new Set([7, 5, 4, 1]));
    expect([laneOf(2), laneOf(3)].sort()).toEqual([1, 2]);
    expect(laneOf(6)).toBe(1);
    expect(graph[6]?.joins.sort()).toEqual([1, 2]);
  });

  it("draw every line on to the next row, whatever the tree", () => {
    for (let seed = 1; seed < 200; seed++) {
      let state = seed;
      const random = (below: number) => {
        state = (state * 1103515245 + 12345) % 2147483648;
        return state % below;
      };
      const parents = Array.from({ length: 12 }, (_, place) => (place === 0 ? null : 1 + random(place)));
      const all = steps(1 + random(12), ...parents);
      const graph = graphOf(all);
      graph.forEach((node, row) => {
        const next = graph[row + 1];
        const goesOn = new Set([...(next?.above ?? []), ...(next?.joins ?? [])]);
        expect(new Set(node.below)).toEqual(goesOn);
        const [step, others] = [all[row], graph.filter((other) => other !== node)];
        expect(others.length).toBe(11);
        if (step && step.parent !== null) expect(node.below).toContain(node.lane);
      });
    }
  });
});
