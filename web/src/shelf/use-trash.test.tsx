import { afterEach, describe, expect, it, vi } from "vitest";
import { useScreen } from "../shell/store";
import { json, rest, serverOf, used } from "../testing/hook";
import { useTrash } from "./use-trash";

const done = () => new Response(null, { status: 204 });
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
    const sent = serverOf(done(), json({ code: "gone", message: "There is no such picture." }, 404), done());
    const { now } = used(useTrash, undefined);
    await now().many(
      [
        ["palettes", "p"],
        ["pictures", "q"],
      ],
      "1 palette and 1 picture",
    );
    const last = notices().at(-1);
    expect(last?.text).toBe("1 of 2 in the trash.");
    last?.action?.run();
    await rest();
    expect(sent.at(-1)?.path).toBe("/api/palettes/p/restore");
  });
  it("says what was removed for good", async () => {
    serverOf(json({ palettes: 1, pictures: 3, bytes: 10 }));
    const { now } = used(useTrash, undefined);
    await now().empty();
    expect(notices().map((notice) => notice.text)).toEqual(["1 palette and 3 pictures removed for good."]);
  });
});
