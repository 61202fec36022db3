import { describe, expect, it } from "vitest";
import type { Recipe } from "../../api/types";
import { withList } from "./list-word";

const recipe = (colors: number, listed: string[]) => ({ colors, listed }) as Recipe;
const LIST = ["#000000", "#111111", "#222222", "#333333"];

describe("another list", () => {
  it("is taken whole at first, and while all of it was taken", () => {
    expect(withList(recipe(24, []), LIST, "Inks")).toEqual({ listed: LIST, list_name: "Inks", colors: 4 });
    expect(withList(recipe(3, LIST.slice(0, 3)), LIST, "").colors).toBe(4);
  });
  it("gives as many colors as before where those were fewer, and never more than it holds", () => {
    expect(withList(recipe(2, LIST), [...LIST, "#444444"], "").colors).toBe(2);
    expect(withList(recipe(3, LIST), LIST.slice(0, 2), "").colors).toBe(2);
  });
  it("counts a color once, opaque", () => {
    expect(withList(recipe(24, []), ["#000000", "#000000ff", "#111111"], "").listed).toEqual([
      "#000000",
      "#111111",
    ]);
    expect(withList(recipe(24, []), ["#000000"], "").colors, "the least there may be").toBe(2);
    expect(withList(recipe(24, []), [...LIST, "#444444"], "").colors).toBe(5);
    expect(
      withList(
        recipe(256, ["#000000"]),
        Array.from({ length: 2000 }, (_, n) => `#${n.toString(16).padStart(6, "0")}`),
        "",
      ),
    ).toMatchObject({
      colors: 256,
    });
  });
  it("leaves the number alone where it is empty for a moment, and where all are taken anyway", () => {
    const before = recipe(
      6,
      Array.from({ length: 20 }, (_, n) => `#0000${n + 10}`),
    );
    const emptied = { ...before, ...withList(before, [], "") } as Recipe;
    expect(emptied).toMatchObject({ listed: [], colors: 6 });
    expect(withList(emptied, before.listed, "").colors, "six of twenty, still").toBe(6);
    expect(withList(recipe(24, []), LIST, "", true)).toEqual({ listed: LIST, list_name: "" });
  });
});
