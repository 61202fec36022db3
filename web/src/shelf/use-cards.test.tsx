import { afterEach, describe, expect, it, vi } from "vitest";
import { ask } from "../api/queries";
import { useScreen } from "../shell/store";
import { json, serverOf, used } from "../testing/hook";
import { useCardActions } from "./use-cards";

afterEach(() => {
  vi.unstubAllGlobals();
  useScreen.setState({ notices: [] });
});

describe("what is done with cards", () => {
  it("marks a favorite, and the shelf is asked for anew", async () => {
    const sent = serverOf(new Response(null, { status: 204 }));
    const { now, queries } = used(useCardActions, undefined);
    queries.setQueryData(ask.cards("palettes").queryKey, { cards: [], next: null, found: 0, all: 0 });
    await now().favor("pictures", "q", true);
    expect(sent).toEqual([
      { method: "PUT", path: "/api/library/pictures/q/favorite", body: { favorite: true } },
    ]);
    expect(queries.getQueryState(ask.cards("palettes").queryKey)?.isInvalidated).toBe(true);
  });
  it("says in words what could not be done", async () => {
    serverOf(json({ code: "full", message: "The shelf is full." }, 422));
    const { now } = used(useCardActions, undefined);
    await now().duplicate("p");
    expect(useScreen.getState().notices.map((notice) => [notice.text, notice.kind])).toEqual([
      ["The shelf is full.", "wrong"],
    ]);
  });
});
