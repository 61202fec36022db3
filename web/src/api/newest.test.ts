import { describe, expect, it } from "vitest";
import { Newest } from "./newest";

function settled() {
  return new Promise((resolve) => setTimeout(resolve));
}

describe("Newest", () => {
  it("asks one at a time and skips what is no longer wanted", async () => {
    const asked: number[] = [];
    const answered: number[] = [];
    const release: (() => void)[] = [];
    const newest = new Newest<number, number>({
      ask: (wish) => {
        asked.push(wish);
        return new Promise((resolve) => release.push(() => resolve(wish * 10)));
      },
      answer: (answer) => answered.push(answer),
      problem: () => undefined,
    });
    for (const wish of [1, 2, 3, 4]) newest.want(wish);
    expect(asked).toEqual([1]);
    release[0]?.();
    await settled();
    expect(asked).toEqual([1, 4]);
    release[1]?.();
    await settled();
    expect(answered).toEqual([10, 40]);
  });

  it("drops an answer that comes after it was stopped, and says when it is busy", async () => {
    const said: (boolean | number)[] = [];
    let release: () => void = () => undefined;
    const newest = new Newest<number, number>({
      ask: (wish) =>
        new Promise((resolve) => {
          release = () => resolve(wish);
        }),
      answer: (answer) => said.push(answer),
      problem: () => undefined,
      busy: (busy) => said.push(busy),
    });
    newest.want(1);
    newest.stop();
    release();
    await settled();
    expect(said).toEqual([true, false]);
    newest.want(2);
    release();
    await settled();
    expect(said).toEqual([true, false, true, 2, false]);
  });

  it("asks for the quick answer first, and for the full one when no newer wish came", async () => {
    const asked: string[] = [];
    const answered: string[] = [];
    const release: (() => void)[] = [];
    const newest = new Newest<string, string>({
      ask: (wish) => {
        asked.push(wish);
        return new Promise((resolve) => release.push(() => resolve(wish)));
      },
      quick: (wish) => (wish === "plain" ? null : `quick ${wish}`),
      answer: (answer, wish) => answered.push(`${answer} for ${wish}`),
      problem: () => undefined,
    });
    const go = async () => {
      release.at(-1)?.();
      await settled();
    };
    newest.want("a");
    newest.want("b");
    await go();
    expect(asked).toEqual(["quick a", "quick b"]);
    await go();
    await go();
    expect(answered).toEqual(["quick a for a", "quick b for b", "b for b"]);
    newest.want("plain");
    await go();
    expect(asked.slice(3)).toEqual(["plain"]);
    newest.want("c");
    newest.stop();
    await go();
    expect(answered).toHaveLength(4);
  });

  it("goes on after a problem", async () => {
    const problems: unknown[] = [];
    const answers: string[] = [];
    const newest = new Newest<string, string>({
      ask: (wish) => (wish === "bad" ? Promise.reject(new Error("no")) : Promise.resolve(wish)),
      answer: (answer) => answers.push(answer),
      problem: (error) => problems.push(error),
    });
    newest.want("bad");
    newest.want("good");
    await settled();
    expect(problems).toHaveLength(1);
    expect(answers).toEqual(["good"]);
  });
});
