import type { Step } from "../api/types";

/** What is drawn beside one step: steps stand newest first, so that a branch goes up from the step it left. */
export interface Node {
  /** In which lane its dot stands; 0 is the way to where the palette is now. */
  lane: number;
  /** Lanes with a line through the upper, and through the lower half of the row. */
  above: number[];
  below: number[];
  /** Lanes that come down to this step from above: what branched off from it. */
  joins: number[];
}

/** The steps that led to where the palette is now. */
export function trodden(steps: readonly Step[]): Set<number> {
  const byNumber = new Map(steps.map((step) => [step.number, step]));
  const path = new Set<number>();
  let here = steps.find((step) => step.is_head);
  while (here && !path.has(here.number)) {
    path.add(here.number);
    here = here.parent === null ? undefined : byNumber.get(here.parent);
  }
  return path;
}

/** Lanes for every step, newest first; branches that do not overlap share a lane. */
export function graphOf(steps: readonly Step[]): Node[] {
  const path = trodden(steps);
  const rowOf = new Map(steps.map((step, row) => [step.number, row]));
  const nodes: Node[] = steps.map(() => ({ lane: 0, above: [], below: [], joins: [] }));
  const last = steps.length - 1;
  const draw = (lane: number, from: number, to: number) => {
    for (let row = from; row < to; row++) {
      nodes[row]?.below.push(lane);
      nodes[row + 1]?.above.push(lane);
    }
  };
  const rows = [...path].map((number) => rowOf.get(number) ?? last);
  if (rows.length > 0) draw(0, Math.min(...rows), Math.max(...rows));
  const placed = new Set(path);
  /** For each lane from 1 on, the row down to which it is taken. */
  const taken: number[] = [];
  steps.forEach((tip, top) => {
    if (placed.has(tip.number)) return;
    const chain = [top];
    placed.add(tip.number);
    let parent = tip.parent;
    while (parent !== null && !placed.has(parent)) {
      placed.add(parent);
      const row = rowOf.get(parent);
      if (row === undefined) break;
      chain.push(row);
      parent = steps[row]?.parent ?? null;
    }
    const bottom = parent === null ? (chain.at(-1) ?? top) : (rowOf.get(parent) ?? last);
    let lane = taken.findIndex((until) => until <= top) + 1;
    if (lane === 0) lane = taken.push(bottom);
    else taken[lane - 1] = bottom;
    for (const row of chain) (nodes[row] as Node).lane = lane;
    draw(lane, top, bottom);
    const fork = parent === null ? undefined : nodes[bottom];
    if (!fork) return;
    // The last stretch bends to the step that it left.
    fork.above = fork.above.filter((other) => other !== lane);
    fork.joins.push(lane);
  });
  return nodes;
}
