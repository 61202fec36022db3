import { afterEach, describe, expect, it, vi } from "vitest";
import { useScreen } from "../shell/store";
import { json, rest, serverOf, used } from "../testing/hook";
import { useTrash } from "./use-trash";

const done = () => new Response(null, { status: 204 });
const BOTH = [
  ["palettes", "p"],
  ["pictures", "q"],
] as const;
const notices = () => useScreen.getState().notices;

afterEach(() => {
  vi.unstubAllGlobals();
  useScreen.setState({ notices: [] });
});

describe("the trash", () => {
  it("takes a card, says so, and offers to put it back", async () => {
    const sent = serverOf(done(), done());
    const { now } = used(useTrash, undefined);
    await now().one("palettes", "p", "Moths", false);
    expect(notices().map((notice) => notice.text)).toEqual(["“Moths” is in the trash."]);
    notices()[0]?.action?.run();
    await rest();
    expect(sent.map(({ method, path }) => [method, path])).toEqual([
      ["DELETE", "/api/palettes/p"],
      ["POST", "/api/palettes/p/restore"],
    ]);
  });
  it("does not say that something is in it which is not", async () => {
    serverOf(json({ code: "busy", message: "Not now." }, 409));
    const { now } = used(useTrash, undefined);
    await now().one("palettes", "p", "Moths", false);
    expect(notices().map((notice) => notice.kind)).toEqual(["wrong"]);
  });
  it("counts what went of several, and puts back only that", async () => {
    const there = { palettes: ["p"], pictures: [] };
    const sent = serverOf(json(there), json(there));
    const { now } = used(useTrash, undefined);
    expect(await now().many(BOTH, "1 palette and 1 picture")).toBe(true);
    const last = notices().at(-1);
    expect(last?.text).toBe("1 of 2 in the trash.");
    last?.action?.run();
    await rest();
    expect(sent.map(({ method, path, body }) => [method, path, body])).toEqual([
      ["PUT", "/api/shelf/trashed", { palettes: ["p"], pictures: ["q"], trashed: true }],
      ["PUT", "/api/shelf/trashed", { palettes: ["p"], pictures: [], trashed: false }],
    ]);
  });
  it("takes several out of it without an offer", async () => {
    serverOf(json({ palettes: ["p"], pictures: ["q"] }));
    const { now } = used(useTrash, undefined);
    expect(await now().many(BOTH, "1 palette and 1 picture", true)).toBe(true);
    expect(notices().map(({ text, action }) => [text, action])).toEqual([
      ["1 palette and 1 picture on the shelf again.", undefined],
    ]);
  });
  it("says of several that did not go why, and offers nothing", async () => {
    serverOf(json({ code: "busy", message: "Not now." }, 409));
    const { now } = used(useTrash, undefined);
    expect(await now().many(BOTH, "1 palette and 1 picture")).toBe(false);
    expect(notices().map(({ text, kind, action }) => [text, kind, action])).toEqual([
      ["Not now.", "wrong", undefined],
    ]);
  });
  it("sends as many as go together and no more", async () => {
    const ids = Array.from({ length: 20_001 }, (_, number) => `p${number}`);
    const sent = serverOf(
      json({ palettes: ids.slice(0, 20_000), pictures: [] }),
      json({ palettes: ids.slice(20_000), pictures: [] }),
    );
    const { now } = used(useTrash, undefined);
    await now().many(
      ids.map((id) => ["palettes", id] as const),
      "20001 palettes",
    );
    expect(sent.map(({ body }) => (body as { palettes: string[] }).palettes.length)).toEqual([20_000, 1]);
    expect(notices().at(-1)?.text).toBe("20001 palettes in the trash.");
  });
  it("says what was removed for good", async () => {
    serverOf(json({ palettes: 1, pictures: 3, bytes: 10 }));
    const { now } = used(useTrash, undefined);
    await now().empty();
    expect(notices().map((notice) => notice.text)).toEqual(["1 palette and 3 pictures removed for good."]);
  });
});
