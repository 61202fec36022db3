import { act } from "react";
import { describe, expect, it } from "vitest";
import { used } from "../testing/hook";
import { useTyped } from "./use-typed";

const shown = (value: string, held = false) =>
  used(({ value: now, held: holds }) => useTyped(now, { held: holds }), { value, held });

describe("what is typed over a value", () => {
  it("is the value until something is typed, and again when that is dropped", () => {
    const { now } = shown("Ink");
    expect(now().text).toBe("Ink");
    act(() => now().type("Inky"));
    expect(now().text).toBe("Inky");
    act(() => now().type(""));
    expect(now().text, "nothing may be typed as well").toBe("");
    act(() => now().drop());
    expect(now().text).toBe("Ink");
  });
  it("gives way to another value, and stays over the same one", () => {
    const { now, draw } = shown("Ink");
    act(() => now().type("Inky"));
    draw({ value: "Ink", held: false });
    expect(now().text).toBe("Inky");
    draw({ value: "Inky", held: false });
    expect(now().text).toBe("Inky");
    draw({ value: "Leaf", held: false });
    expect(now().text).toBe("Leaf");
  });
  it("stays over any value while it is held", () => {
    const { now, draw } = shown("12", true);
    act(() => now().type("1"));
    draw({ value: "1", held: true });
    draw({ value: "40", held: true });
    expect(now().text).toBe("1");
    draw({ value: "40", held: false });
    expect(now().text).toBe("40");
  });
});
