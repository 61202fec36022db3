import { beforeEach, describe, expect, it } from "vitest";
import { useDelivered } from "./store";

const of = (palette: string) => useDelivered.getState().palettes[palette];
beforeEach(() => useDelivered.setState({ palettes: {} }));

describe("what was delivered last", () => {
  it("is remembered for each palette by itself, and outlasts a reload", () => {
    useDelivered.getState().put("a", { format: "gpl" });
    useDelivered.getState().put("a", { options: { gpl: { columns: "8" } } });
    useDelivered.getState().put("b", { format: "css" });
    expect(of("a")).toEqual({
      format: "gpl",
      among: "all",
      variant: "shown",
      options: { gpl: { columns: "8" } },
    });
    expect(of("b")?.options).toEqual({});
    expect(JSON.parse(localStorage.getItem("huvren.delivered") ?? "{}").state.palettes.a.format).toBe("gpl");
  });
  it("is remembered of the last 200, the one that was longest untouched goes first", () => {
    for (let place = 0; place < 200; place += 1) useDelivered.getState().put(`p${place}`, { format: "gpl" });
    useDelivered.getState().put("p0", { format: "css" });
    useDelivered.getState().put("new", { format: "hex" });
    expect(of("p1")).toBeUndefined();
    expect(of("p0")?.format).toBe("css");
    expect(Object.keys(useDelivered.getState().palettes)).toHaveLength(200);
  });
});
