import { describe, expect, it } from "vitest";
import { howUsed } from "./uses";

const USE = { palette: "p", name: "Moths", is_present: true, is_in_trash: false, last_step: 4 };

describe("how a palette uses something", () => {
  it("is not worth a word where it does so now", () => {
    expect(howUsed(USE)).toBe("");
  });
  it("says the step where only the history does, and the trash", () => {
    expect(howUsed({ ...USE, is_present: false })).toBe("only earlier, last at step 4");
    expect(howUsed({ ...USE, is_in_trash: true })).toBe("in the trash");
    expect(howUsed({ ...USE, is_present: false, is_in_trash: true })).toBe(
      "only earlier, last at step 4; in the trash",
    );
  });
});
