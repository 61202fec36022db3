import { beforeEach, describe, expect, it } from "vitest";
import { useSelection } from "./selection";

const ORDER = ["a", "b", "c", "d", "e"];
const press = (id: string, withShift = false) => useSelection.getState().press(id, ORDER, withShift);
const chosen = () => [...(useSelection.getState().chosen ?? [])].sort().join("");

beforeEach(() => useSelection.getState().end());

describe("selecting cards", () => {
  it("begins with the card that is pressed, and takes it back", () => {
    press("b");
    expect(chosen()).toBe("b");
    press("b");
    expect(chosen()).toBe("");
  });
  it("takes all between with Shift, either way, beside what is selected", () => {
    press("d");
    press("b", true);
    expect(chosen()).toBe("bcd");
    press("e", true);
    expect(chosen()).toBe("bcde");
    press("a");
    expect(chosen()).toBe("abcde");
  });
  it("takes one where nothing was pressed before, or what was is not shown any more", () => {
    press("c", true);
    expect(chosen()).toBe("c");
    useSelection.getState().end();
    useSelection.getState().press("z", ["z"], false);
    press("c", true);
    expect(chosen()).toBe("cz");
  });
});
