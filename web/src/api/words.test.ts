import { describe, expect, it } from "vitest";
import { isAway, Problem } from "./request";
import { inWords } from "./words";

describe("an error in words", () => {
  it("is the server's sentence, else what can be done", () => {
    expect(inWords(new Problem(422, "bad_color", "“x” is no color."))).toBe("“x” is no color.");
    expect(inWords(new Error("plain"))).toBe("plain");
    expect(inWords("said")).toBe("said");
    for (const nothing of [undefined, null, {}, "", new Error("")])
      expect(inWords(nothing)).toBe("Something went wrong. Try again.");
    expect(inWords(new DOMException("x", "AbortError"))).toBe("That was called off.");
  });
});

describe("a server that is away", () => {
  it("is one that was not reached or says so, not one that refuses, nor a fault of ours", () => {
    expect(isAway(new Problem(0, "offline", ""))).toBe(true);
    for (const status of [502, 503, 504]) expect(isAway(new Problem(status, "x", ""))).toBe(true);
    for (const status of [400, 409, 422, 500]) expect(isAway(new Problem(status, "x", ""))).toBe(false);
    expect(isAway(new Problem(429, "too_often", "")), "asked again a little later").toBe(true);
    expect(isAway(new Problem(503, "took_too_long", "")), "it would take as long again").toBe(false);
    expect(isAway(new TypeError("undefined is not a function"))).toBe(false);
  });
});
