import { MutationObserver, QueryClient } from "@tanstack/react-query";
import { describe, expect, test } from "vitest";
import { askBeforeLeaving } from "./leaving";

function leave(): boolean {
  const event = new Event("beforeunload", { cancelable: true });
  dispatchEvent(event);
  return !event.defaultPrevented;
}

describe("leaving the page", () => {
  test("asks while a step is under way, and not before, after, or once it is ended", async () => {
    const queries = new QueryClient();
    const end = askBeforeLeaving(queries);
    expect(leave()).toBe(true);
    const answers: (() => void)[] = [];
    const step = () =>
      new MutationObserver(queries, { mutationFn: () => new Promise<void>((ok) => answers.push(ok)) });
    const both = [step().mutate(), step().mutate()];
    await Promise.resolve();
    expect(leave()).toBe(false);
    answers.shift()?.();
    await both[0];
    expect(leave()).toBe(false);
    answers.shift()?.();
    await both[1];
    await new Promise((done) => setTimeout(done));
    expect(leave()).toBe(true);

    const last = step().mutate();
    await new Promise((done) => setTimeout(done));
    expect(leave()).toBe(false);
    end();
    expect(leave()).toBe(true);
    answers.shift()?.();
    await last;
  });
});
