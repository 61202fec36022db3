import { act } from "react";
import { createRoot } from "react-dom/client";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { keysOf } from "../bench/keys";
import { loadAhead, runStageKey, type Stage } from "../bench/stages";
import { useScreen } from "../shell/store";
import { useGather } from "../stages/gather/views";
import { later } from "../ui/later";
import { STAGES } from "./stages";

(globalThis as { IS_REACT_ACT_ENVIRONMENT?: boolean }).IS_REACT_ACT_ENVIRONMENT = true;

describe("the stages", () => {
  it("stand in the order of the work, each once, with what they are for", () => {
    expect(STAGES.map((stage) => stage.id)).toEqual([
      "gather",
      "reduce",
      "arrange",
      "ramp",
      "check",
      "deliver",
    ]);
    for (const stage of STAGES) {
      expect(stage.label).toMatch(/^[A-Z][a-z]+$/);
      expect(stage.use.length).toBeGreaterThan(10);
    }
  });

  it("share no key, with each other or with the bench", () => {
    const own = ["l", "d", "f", "k", "+", "-", "0", "1", "2", "3", "4", "5", "6", "7", "8", "9"];
    const keys = STAGES.flatMap((stage) => stage.keys.map((entry) => entry.key));
    expect(new Set([...own, ...keys]).size).toBe(own.length + keys.length);
    const ids = STAGES.flatMap((stage) => stage.keys.map((entry) => entry.id));
    expect(new Set(ids).size).toBe(ids.length);
  });

  it("are listed with their keys in the panel, which counts them itself", () => {
    const rows = keysOf(STAGES);
    expect(rows[0]).toEqual(["1 – 6", "switch the stage"]);
    for (const stage of STAGES)
      for (const entry of stage.keys) expect(rows).toContainEqual([entry.key.toUpperCase(), entry.use]);
    expect(keysOf(STAGES.slice(0, 2))[0]).toEqual(["1 – 2", "switch the stage"]);
    expect(rows).toContainEqual(["K, Escape", "keep a preview, put it back"]);
  });

  it("load a component each", async () => {
    for (const stage of STAGES)
      expect(await stage.component.load()).toEqual({ default: expect.any(Function) });
  }, 60_000);
});

describe("a key of a stage", () => {
  beforeEach(() => {
    useScreen.setState({ stage: "deliver" });
    useGather.setState({ view: "mix" });
  });

  it("turns to its stage and does what it does", () => {
    runStageKey(STAGES, "type-a-color");
    expect(useScreen.getState().stage).toBe("gather");
    expect(useGather.getState().view).toBe("type");
  });

  it("that no stage has does nothing", () => {
    runStageKey(STAGES, "fly");
    expect(useScreen.getState().stage).toBe("deliver");
  });
});

describe("a further stage", () => {
  const load = vi.fn();
  let check: Stage;
  beforeEach(() => {
    load.mockReset().mockResolvedValue(() => <p>Checked</p>);
    check = { id: "check", label: "Check", use: "Say whether it reads", component: later(load), keys: [] };
  });
  afterEach(() => vi.unstubAllGlobals());

  it("is its descriptor: it is loaded once, however often it is shown", async () => {
    expect(load).not.toHaveBeenCalled();
    const Shown = check.component;
    const box = document.createElement("div");
    const root = createRoot(box);
    await act(async () => root.render(<Shown />));
    expect(box.textContent).toBe("Checked");
    act(() => root.unmount());
    await act(async () => createRoot(box).render(<Shown />));
    expect(load).toHaveBeenCalledTimes(1);
  });

  it("is loaded ahead when there is time for it", () => {
    const waiting: (() => void)[] = [];
    vi.stubGlobal("requestIdleCallback", (run: () => void) => waiting.push(run));
    loadAhead([...STAGES.slice(0, 0), check]);
    expect(load).not.toHaveBeenCalled();
    for (const run of waiting) run();
    expect(load).toHaveBeenCalledTimes(1);
  });
});
