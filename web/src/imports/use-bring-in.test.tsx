import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { KEYS } from "../api/queries";
import { useScreen } from "../shell/store";
import { json, serverOf, used } from "../testing/hook";
import { useBringIn, useProgress } from "./use-bring-in";

/** An upload that is answered at once, with what the test has ready. */
class Sender {
  /** Null where it is broken off. */
  static answers: ({ status: number; body: unknown } | null | "held")[] = [];
  static sent: string[] = [];
  upload: { onprogress?: (event: { loaded: number; total: number }) => void } = {};
  status = 0;
  response: Blob | null = null;
  onload = () => undefined;
  onerror = () => undefined;
  onabort = () => undefined;
  open() {}
  setRequestHeader() {}
  abort() {
    this.onabort();
  }
  getResponseHeader(name: string) {
    return name === "Content-Type" ? "application/json" : null;
  }
  async send(body: Blob) {
    const answer = Sender.answers.shift();
    Sender.sent.push(await body.text());
    this.upload.onprogress?.({ loaded: 1, total: 2 });
    if (answer === null) this.onerror();
    if (answer === null || answer === "held") return;
    this.status = answer?.status ?? 500;
    this.response = new Blob([JSON.stringify(answer?.body)], { type: "application/json" });
    this.onload();
  }
}

const file = (name: string) => new File(["x"], name, { type: "image/png" });

beforeEach(() => vi.stubGlobal("XMLHttpRequest", Sender));
afterEach(() => {
  vi.unstubAllGlobals();
  Sender.answers = [];
  Sender.sent = [];
  useScreen.setState({ notices: [] });
  history.replaceState(null, "", "/");
});

describe("bringing pictures in", () => {
  it("stores each, begins a palette of it, and says what was made", async () => {
    Sender.answers = [
      { status: 201, body: { id: "picture-1" } },
      { status: 201, body: { id: "picture-2" } },
    ];
    const sent = serverOf(json({ id: "palette-1" }, 201), json({ id: "palette-2" }, 201));
    const steps: string[] = [];
    const end = useProgress.subscribe(({ progress }) =>
      steps.push(progress ? `${progress.name} ${progress.step} ${progress.share}` : "done"),
    );
    const { now, queries } = used(useBringIn, undefined);
    await now()([file("a.png"), file("b.png")]);
    end();
    expect(sent.map(({ path, body }) => [path, body])).toEqual([
      ["/api/palettes", { picture: "picture-1" }],
      ["/api/palettes", { picture: "picture-2" }],
    ]);
    expect(steps).toEqual([
      "a.png sending 0",
      "a.png sending 0.5",
      "a.png reducing 1",
      "b.png sending 0",
      "b.png sending 0.5",
      "b.png reducing 1",
      "done",
    ]);
    expect(queries.getQueryData(KEYS.palette("palette-2"))).toEqual({ id: "palette-2" });
    expect(location.pathname).toBe("/");
    expect(useScreen.getState().notices.map((notice) => notice.text)).toEqual([
      "2 pictures are reduced: a.png, b.png.",
    ]);
  });
  it("opens the bench of a single one", async () => {
    Sender.answers = [{ status: 201, body: { id: "picture-1" } }];
    serverOf(json({ id: "palette-1" }, 201));
    const { now } = used(useBringIn, undefined);
    await now()([file("a.png")]);
    expect(location.pathname).toBe("/palettes/palette-1");
  });
  it("goes on with the others where one is refused, and says why", async () => {
    Sender.answers = [
      { status: 422, body: { code: "bad_file", message: "“a.png” is not a picture." } },
      { status: 201, body: { id: "picture-2" } },
    ];
    serverOf(json({ id: "palette-2" }, 201));
    const { now } = used(useBringIn, undefined);
    await now()([file("a.png"), file("b.png")]);
    expect(useScreen.getState().notices.map((notice) => notice.text)).toEqual([
      "“a.png” is not a picture.",
      "One picture is reduced: b.png.",
    ]);
    expect(location.pathname).toBe("/");
    expect(useProgress.getState().progress).toBeNull();
  });
  it("stays where it is where nothing could be brought in", async () => {
    Sender.answers = [{ status: 422, body: { code: "bad_file", message: "No." } }];
    const { now } = used(useBringIn, undefined);
    await now()([file("a.png")]);
    expect(location.pathname).toBe("/");
  });
  it("waits where the server cannot be reached, and sends a picture again by itself", async () => {
    vi.useFakeTimers();
    Sender.answers = [null, null, { status: 201, body: { id: "picture-1" } }];
    // Away for one look, then there; there at once the second time.
    const sent = serverOf(new TypeError("away"), json({}), json({}), json({ id: "palette-1" }, 201));
    const steps: string[] = [];
    const end = useProgress.subscribe(({ progress }) => steps.push(progress ? progress.step : "done"));
    const { now } = used(useBringIn, undefined);
    const all = now()([file("a.png")]);
    await vi.advanceTimersByTimeAsync(10_000);
    await all;
    end();
    vi.useRealTimers();
    expect(sent.map(({ path }) => path)).toEqual([
      "/api/health",
      "/api/health",
      "/api/health",
      "/api/palettes",
    ]);
    expect(steps).toEqual([
      "sending",
      "sending",
      "waiting",
      "sending",
      "waiting",
      "sending",
      "reducing",
      "done",
    ]);
    expect(Sender.sent.map((body) => body.includes('name="again"'))).toEqual([false, true, true]);
    expect(location.pathname).toBe("/palettes/palette-1");
  });
  it("gives up where the server is there and sending breaks off all the same", async () => {
    vi.useFakeTimers();
    Sender.answers = [null, null, null, null];
    const sent = serverOf(json({}), json({}), json({}));
    const { now } = used(useBringIn, undefined);
    const all = now()([file("a.png")]);
    await vi.advanceTimersByTimeAsync(20_000);
    await all;
    vi.useRealTimers();
    expect([Sender.sent.length, sent.length]).toEqual([4, 3]);
    expect(useScreen.getState().notices.map((notice) => notice.text)).toEqual([
      "a.png: The server cannot be reached. Try again.",
    ]);
  });
  it("sends the others where one is not to be sent after all", async () => {
    Sender.answers = ["held", { status: 201, body: { id: "picture-2" } }];
    serverOf(json({ id: "palette-2" }, 201));
    const { now } = used(useBringIn, undefined);
    const all = now()([file("a.png"), file("b.png")]);
    await vi.waitFor(() => expect(Sender.sent.length).toBe(1));
    useProgress.getState().stop();
    await all;
    expect(useScreen.getState().notices.map((notice) => notice.text)).toEqual([
      "a.png was not sent.",
      "One picture is reduced: b.png.",
    ]);
    expect(useProgress.getState().progress).toBeNull();
  });
});
