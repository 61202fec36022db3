import { describe, expect, it } from "vitest";
import { create } from "zustand";
import { persist } from "zustand/middleware";
import { keptIn } from "./kept";

function storage(room: number) {
  const held = new Map<string, string>();
  const made = {
    getItem: (name: string) => held.get(name) ?? null,
    setItem: (name: string, value: string) => {
      if (value.length > room) throw new DOMException("full", "QuotaExceededError");
      held.set(name, value);
    },
    removeItem: (name: string) => held.delete(name),
  };
  return { held, made: made as unknown as Storage };
}

describe("a store that is kept in the browser", () => {
  it("is kept as it was last, and goes on where it has no room", () => {
    const { held, made } = storage(60);
    const useText = create(persist(() => ({ text: "" }), { name: "text", storage: keptIn(() => made) }));
    useText.setState({ text: "Lamp" });
    expect(held.get("text")).toContain("Lamp");
    useText.setState({ text: "Lamp ".repeat(20) });
    expect(useText.getState().text).toHaveLength(100);
    expect(held.has("text"), "nothing of before comes back").toBe(false);
    useText.setState({ text: "Ink" });
    expect(held.get("text")).toContain("Ink");
  });
});
