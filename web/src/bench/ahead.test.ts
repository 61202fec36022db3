import { readFileSync } from "node:fs";
import { expect, it } from "vitest";
import type { Swatch } from "../api/types";
import { ahead } from "./ahead";

interface Case {
  groups: string;
  ids: string;
  to: number;
  order: string;
  grouped: string;
}

const CASES = JSON.parse(readFileSync("../tests/moves.json", "utf8")) as Case[];
const swatches = (groups: string) =>
  [...groups].map((group, place) => ({
    id: String(place),
    group: group === "." ? null : group,
    nearest: null,
  })) as Swatch[];
const said = (row: readonly Swatch[]) => ({
  order: row.map(({ id }) => id).join(""),
  grouped: row.map(({ group }) => group ?? ".").join(""),
});

it.each(CASES)("moves $ids of $groups to $to as the step does", ({ groups, ids, to, order, grouped }) => {
  expect(said(ahead(swatches(groups), [{ ids: [...ids], to }]))).toEqual({ order, grouped });
});

it("stands by itself once the palette has it: a move that is there already changes nothing", () => {
  for (const { ids, to, order, grouped } of CASES) {
    const there = [...order].map((id, place) => ({
      id,
      group: grouped[place] === "." ? null : (grouped[place] ?? null),
      nearest: null,
    })) as Swatch[];
    expect(said(ahead(there, [{ ids: [...ids], to }]))).toEqual({ order, grouped });
  }
});

it("makes several moves one after the other, and the same array for the same moves", () => {
  const own = swatches("....");
  const moves = [
    { ids: ["0"], to: 1 },
    { ids: ["0"], to: 2 },
  ];
  const made = ahead(own, moves);
  expect(said(made).order).toBe("1203");
  expect(ahead(own, moves)).toBe(made);
  expect(ahead(own, [])).toBe(own);
  expect(ahead(own, [{ ids: ["gone"], to: 0 }])).toBe(own);
});

it("still names the nearest of each swatch", () => {
  const own = swatches("...").map((swatch, place) => ({ ...swatch, nearest: [1, 0, null][place] ?? null }));
  const made = ahead(own, [{ ids: ["0"], to: 2 }]);
  expect(made.map(({ id, nearest }) => [id, nearest === null ? null : made[nearest]?.id])).toEqual([
    ["1", "0"],
    ["2", null],
    ["0", "1"],
  ]);
});
