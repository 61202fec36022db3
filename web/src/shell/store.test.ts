import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { useScreen } from "./store";

beforeEach(() => {
  vi.useFakeTimers();
  useScreen.setState({ notices: [], selected: [], anchor: null, dragging: null });
});
afterEach(() => {
  vi.useRealTimers();
});

describe("messages", () => {
  it("says the same thing once", () => {
    const { say } = useScreen.getState();
    say("Saved.");
    say("Something else.");
    say("Saved.");
    expect(useScreen.getState().notices.map((notice) => notice.text)).toEqual(["Something else.", "Saved."]);
  });
  it("takes away what was only said, and leaves what went wrong until it is closed", () => {
    const { say } = useScreen.getState();
    say("Copied.");
    say("The list holds no color.", { kind: "wrong" });
    vi.advanceTimersByTime(60_000);
    const left = useScreen.getState().notices;
    expect(left.map((notice) => notice.text)).toEqual(["The list holds no color."]);
    useScreen.getState().dismiss(left[0]?.id ?? -1);
    expect(useScreen.getState().notices).toEqual([]);
  });
  it("leaves time to use an offer", () => {
    useScreen.getState().say("Moved to the trash.", { action: { label: "Restore", run: () => {} } });
    vi.advanceTimersByTime(6_000);
    expect(useScreen.getState().notices).toHaveLength(1);
    vi.advanceTimersByTime(7_000);
    expect(useScreen.getState().notices).toHaveLength(0);
  });
});

describe("the selection", () => {
  it("is anchored at the last one unless said otherwise", () => {
    const { select } = useScreen.getState();
    select(["a", "b", "c"]);
    expect(useScreen.getState().anchor).toBe("c");
    select(["a", "b"], "a");
    expect(useScreen.getState().anchor).toBe("a");
    select([]);
    expect(useScreen.getState().anchor).toBeNull();
  });
  it("ends what was being dragged", () => {
    useScreen.getState().drag({ id: "a", css: "rgb(0 0 0)" });
    useScreen.getState().select(["b"]);
    expect(useScreen.getState().dragging).toBeNull();
  });
});

describe("what is remembered", () => {
  it("outlives the page", () => {
    const screen = useScreen.getState();
    screen.setSurround("dark");
    screen.setInk("#123456");
    expect(localStorage.getItem("huvren.surround")).toBe("dark");
    expect(localStorage.getItem("huvren.ink")).toBe("#123456");
    expect(document.documentElement.dataset.surround).toBe("dark");
  });
});

describe("what went wrong", () => {
  it("is put away once something goes well; what offers to be done again stays", () => {
    const { say, settleWrong } = useScreen.getState();
    useScreen.setState({ notices: [] });
    say("Saved.");
    say("The name is too long.", { kind: "wrong" });
    say("Somebody was faster.", { kind: "wrong", action: { label: "Again", run: () => undefined } });
    settleWrong();
    expect(useScreen.getState().notices.map((notice) => notice.text)).toEqual([
      "Saved.",
      "Somebody was faster.",
    ]);
  });
});
