/** The one way to the server: whatever is sent goes through `request`, and whatever comes back that is no answer is a `Problem`. */

import type { Palette } from "./types";

/** An error as the server words it. */
export class Problem extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    message: string,
    readonly current?: Palette,
    /** Milliseconds after which the server wants to be asked again, where it said so. */
    readonly waitMs: number | null = null,
  ) {
    super(message);
  }
}

export function csrfToken() {
  return /(?:^|; )csrftoken=([^;]+)/.exec(document.cookie)?.[1] ?? "";
}

function asProblem(status: number, body: unknown, waitMs: number | null): Problem {
  const known = body as Partial<{ code: string; message: string; current: Palette }> | undefined;
  const message = known?.message ?? `The server answered ${status} without saying why. Try again.`;
  return new Problem(status, known?.code ?? "unknown", message, known?.current, waitMs);
}

/** The server could not be reached: nothing was answered, so nothing is known to be wrong. */
function unreached(): Problem {
  return new Problem(0, "offline", "The server cannot be reached. Try again.");
}

/** Whether a request may go through when it is sent again later, as it is. What took too long once does so again. */
export function isAway(error: unknown): boolean {
  if (!(error instanceof Problem) || error.code === "took_too_long") return false;
  return error.code === "offline" || error.status === 429 || error.status >= 502;
}

export interface Sending {
  /** How often it is sent again by itself where the server says when; a step of a palette waits in its own way. */
  again?: number;
  /** Told how much of the body has gone, 0..1. */
  onProgress?: (share: number) => void;
}

const PREPARING = "preparing";
const AGAIN = 3;
const LONGEST_WAIT_MS = 15_000;

/** Milliseconds that an answer asks to wait (RFC 9110 §10.2.3, in seconds), where it does. */
function toldToWait(response: Response): number | null {
  if (response.status !== 429 && response.status !== 503) return null;
  const seconds = Number(response.headers.get("Retry-After") ?? "");
  return Number.isFinite(seconds) && seconds > 0 ? seconds * 1000 : null;
}

/** Some time; rejected by what breaks it off. */
export function rest(ms: number, signal: AbortSignal): Promise<void> {
  return new Promise((resolve, reject) => {
    const stop = () => {
      clearTimeout(timer);
      reject(signal.reason);
    };
    const timer = setTimeout(() => {
      signal.removeEventListener("abort", stop);
      resolve();
    }, ms);
    signal.addEventListener("abort", stop, { once: true });
  });
}

/** A request whose body can be sent again as often as need be. */
interface Letter {
  url: string;
  method: string;
  headers: Headers;
  body: string | Blob | null;
  signal: AbortSignal;
}

async function written(wish: Request): Promise<Letter> {
  const { url, method, headers, signal } = wish;
  if (method === "GET" || wish.body === null) return { url, method, headers, body: null, signal };
  const isText = headers.get("Content-Type")?.includes("json");
  return { url, method, headers, body: isText ? await wish.text() : await wish.blob(), signal };
}

/** Statuses whose answers have no body (Fetch, “null body status”). */
const BODILESS: ReadonlySet<number> = new Set([101, 103, 204, 205, 304]);

/**
 * fetch, whose failure to reach anybody is a problem like any other, an answer that is cut off in its middle too: it is only given
 * out as a whole. What is wrong in our own code stays what it is.
 */
async function fetched({ url, ...letter }: Letter): Promise<Response> {
  try {
    const answer = await fetch(new Request(url, letter));
    const { status, headers } = answer;
    const body = await answer.arrayBuffer();
    // An answer of such a status has no body, though the browser holds an empty one.
    return new Response(BODILESS.has(status) ? null : body, { status, headers });
  } catch (error) {
    if (letter.signal.aborted) throw error;
    throw unreached();
  }
}

/** The same where somebody wants to see how much has gone: only XMLHttpRequest tells. */
async function uploaded(letter: Letter, onProgress: (share: number) => void): Promise<Response> {
  return new Promise((resolve, reject) => {
    const sender = new XMLHttpRequest();
    sender.open(letter.method, letter.url);
    letter.headers.forEach((value, name) => {
      sender.setRequestHeader(name, value);
    });
    sender.responseType = "blob";
    sender.upload.onprogress = (event) => onProgress(event.loaded / Math.max(event.total, 1));
    sender.onerror = () => reject(unreached());
    sender.onabort = () => reject(letter.signal.reason);
    sender.onload = () => {
      const told = sender.getResponseHeader("Retry-After");
      const headers = {
        "Content-Type": sender.getResponseHeader("Content-Type") ?? "",
        ...(told ? { "Retry-After": told } : {}),
      };
      resolve(
        new Response(sender.status === 204 ? null : sender.response, { status: sender.status, headers }),
      );
    };
    letter.signal.addEventListener("abort", () => sender.abort(), { once: true });
    if (letter.signal.aborted) reject(letter.signal.reason);
    sender.send(letter.body);
  });
}

/**
 * Send a request. Where the server is busy or was asked too often and says when to come again, it is sent again then. Throws a
 * `Problem` for every answer that is none; who is not signed in goes to the page where one does.
 */
export async function request(wish: Request, { again = AGAIN, onProgress }: Sending = {}): Promise<Response> {
  if (wish.method !== "GET") wish.headers.set("X-CSRFToken", csrfToken());
  const letter = await written(wish);
  for (let left = again; ; ) {
    const response = await (onProgress ? uploaded(letter, onProgress) : fetched(letter));
    if (response.ok) return response;
    const waitMs = toldToWait(response);
    const body: unknown = await response.json().catch(() => undefined);
    const problem = asProblem(response.status, body, waitMs);
    if (response.status === 401) location.assign("/sign-in");
    if (waitMs === null || waitMs > LONGEST_WAIT_MS || left <= 0 || !isAway(problem)) throw problem;
    // The first preparation is over some time, and says how far it is meanwhile.
    if (problem.code !== PREPARING) left -= 1;
    await rest(waitMs, wish.signal);
  }
}

function addressed(path: string, options: RequestInit): Request {
  return new Request(new URL(path, location.origin), options);
}

/** Bytes at an address of ours. */
export function get(path: string, signal: AbortSignal | null = null): Promise<Response> {
  return request(addressed(path, { signal }));
}

/** What the server answers to JSON, as bytes: frames, pictures and files. */
export function post(path: string, body: unknown, signal: AbortSignal | null = null): Promise<Response> {
  const headers = { "Content-Type": "application/json" };
  return request(addressed(path, { method: "POST", headers, body: JSON.stringify(body), signal }));
}

/** A file with some fields, as a form; answers the JSON that comes back. */
export async function upload<Answer>(
  path: string,
  file: File,
  fields: Record<string, string> = {},
  { onProgress, signal = null }: { onProgress?: (share: number) => void; signal?: AbortSignal | null } = {},
): Promise<Answer> {
  const form = new FormData();
  form.append("file", file);
  for (const [name, value] of Object.entries(fields)) form.append(name, value);
  const response = await request(
    addressed(path, { method: "POST", body: form, signal }),
    onProgress ? { onProgress } : {},
  );
  return (await response.json()) as Answer;
}
