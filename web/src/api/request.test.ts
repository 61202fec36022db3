import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { get, isAway, Problem, post, request, upload } from "./request";

let answers: (() => Response)[] = [];
let sent: Request[] = [];
const json = (body: unknown, status = 200, headers: Record<string, string> = {}) =>
  new Response(JSON.stringify(body), { status, headers: { "Content-Type": "application/json", ...headers } });
const busy = (seconds: string) => json({ code: "busy", message: "Busy." }, 503, { "Retry-After": seconds });

beforeEach(() => {
  vi.useFakeTimers();
  answers = [];
  sent = [];
  vi.stubGlobal("fetch", async (wish: Request) => {
    sent.push(wish);
    const answer = answers.shift();
    if (!answer) throw new TypeError("Failed to fetch");
    return answer();
  });
});
afterEach(() => {
  vi.useRealTimers();
  vi.unstubAllGlobals();
});

describe("a request", () => {
  it("answers what comes back, and carries the token where something is changed", async () => {
    // biome-ignore lint/suspicious/noDocumentCookie: the token comes as one
    document.cookie = "csrftoken=abc";
    answers = [() => json({ a: 1 }), () => json({ b: 2 })];
    expect(await (await get("/api/x")).json()).toEqual({ a: 1 });
    expect(await (await post("/api/x", { c: 3 })).json()).toEqual({ b: 2 });
    expect(sent.map((wish) => wish.headers.get("X-CSRFToken"))).toEqual([null, "abc"]);
    expect(await sent[1]?.json()).toEqual({ c: 3 });
  });

  it("takes an answer that is cut off in its middle for none, and one without a body for what it is", async () => {
    const cutOff = () => {
      let isBegun = false;
      const pull = (body: ReadableStreamDefaultController) => {
        if (isBegun) body.error(new TypeError("network error"));
        else body.enqueue(new TextEncoder().encode('{"a":'));
        isBegun = true;
      };
      return new Response(new ReadableStream({ pull }), { status: 200 });
    };
    // As browsers give it: no body by its status, and an empty one at hand.
    const bodiless = () =>
      Object.defineProperty(new Response(null, { status: 204 }), "body", { value: new Response("").body });
    answers = [cutOff, bodiless, () => json({ a: 1 }, 200, { "X-Kept": "yes" })];
    const problem = await post("/api/x", {}).catch((error: unknown) => error);
    expect(problem).toMatchObject({ code: "offline" });
    expect(isAway(problem)).toBe(true);
    expect((await post("/api/x", {})).status).toBe(204);
    expect((await get("/api/x")).headers.get("X-Kept")).toBe("yes");
  });

  it("says what is wrong in the server's words, with the state that is newer", async () => {
    answers = [() => json({ code: "stale", message: "Somebody was faster.", current: { revision: 4 } }, 409)];
    const problem = await get("/api/x").catch((error: unknown) => error);
    expect(problem).toBeInstanceOf(Problem);
    expect(problem).toMatchObject({
      status: 409,
      code: "stale",
      message: "Somebody was faster.",
      waitMs: null,
    });
    expect((problem as Problem).current).toEqual({ revision: 4 });
    answers = [() => new Response("<html>", { status: 500 })];
    await expect(get("/api/x")).rejects.toThrow("The server answered 500 without saying why. Try again.");
  });

  it("waits as it is told when the server is busy or was asked too often, and is sent again", async () => {
    for (const status of [503, 429]) {
      answers = [
        () => json({ code: "busy", message: "Busy." }, status, { "Retry-After": "2" }),
        () => json({ a: 1 }),
      ];
      sent = [];
      const asked = get("/api/x");
      await vi.advanceTimersByTimeAsync(1_999);
      expect(sent).toHaveLength(1);
      await vi.advanceTimersByTimeAsync(1);
      expect(await (await asked).json()).toEqual({ a: 1 });
      expect(sent).toHaveLength(2);
    }
  });

  it("waits for the first preparation however long that takes", async () => {
    const preparing = () => json({ code: "preparing", message: "41 %" }, 503, { "Retry-After": "1" });
    answers = [...Array.from({ length: 9 }, () => preparing), () => new Response("done")];
    const asked = get("/api/x");
    await vi.advanceTimersByTimeAsync(9_500);
    expect(await (await asked).text()).toBe("done");
  });

  it("gives up after some times, and at once where it is told to wait long, or not told, or took too long", async () => {
    answers = Array.from({ length: 9 }, () => () => busy("1"));
    const asked = get("/api/x").catch((error: Problem) => error);
    await vi.advanceTimersByTimeAsync(10_000);
    expect(await asked).toMatchObject({ status: 503, waitMs: 1_000 });
    expect(sent).toHaveLength(4);
    for (const answer of [
      () => busy("60"),
      () => busy(""),
      () => json({ code: "took_too_long", message: "Late." }, 503, { "Retry-After": "1" }),
    ]) {
      answers = [answer];
      sent = [];
      await expect(get("/api/x")).rejects.toBeInstanceOf(Problem);
      expect(sent).toHaveLength(1);
    }
  });

  it("leaves the waiting to whoever wants to say so", async () => {
    answers = [() => busy("2")];
    const wish = new Request(new URL("/api/x", location.origin));
    await expect(request(wish, { again: 0 })).rejects.toMatchObject({ waitMs: 2_000 });
    expect(sent).toHaveLength(1);
  });

  it("ends its waiting when it is called off", async () => {
    answers = [() => busy("5"), () => json({})];
    const control = new AbortController();
    const asked = get("/api/x", control.signal).catch((error: unknown) => error);
    await vi.advanceTimersByTimeAsync(100);
    control.abort(new DOMException("off", "AbortError"));
    expect(await asked).toMatchObject({ name: "AbortError" });
    expect(sent).toHaveLength(1);
  });

  it("leads whoever is not signed in to where one does", async () => {
    const assign = vi.fn();
    vi.stubGlobal("location", { origin: location.origin, assign });
    answers = [() => json({ code: "signed_out", message: "Sign in." }, 401)];
    await expect(get("/api/x")).rejects.toMatchObject({ status: 401 });
    expect(assign).toHaveBeenCalledWith("/sign-in");
  });

  it("that reaches nobody is a problem that may go through later", async () => {
    const problem = await get("/api/x").catch((error: unknown) => error);
    expect(problem).toMatchObject({ status: 0, code: "offline" });
    expect(isAway(problem)).toBe(true);
    expect(isAway(new Problem(503, "took_too_long", ""))).toBe(false);
    expect(isAway(new Problem(429, "too_often", ""))).toBe(true);
    expect(isAway(new Problem(422, "bad", ""))).toBe(false);
  });

  it("carries a file as a form with its fields", async () => {
    answers = [() => json({ id: "p" }, 201)];
    const file = new File(["abc"], "a.txt");
    expect(await upload("/api/imports", file, { colors: "7" })).toEqual({ id: "p" });
    const form = (await sent[0]?.formData()) as FormData;
    expect([(form.get("file") as File).name, form.get("colors")]).toEqual(["a.txt", "7"]);
  });
});
