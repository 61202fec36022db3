import { describe, expect, it } from "vitest";
import { readFrame } from "./files";
import { isJob, isOpen } from "./jobs";
import type { Job, Palette } from "./types";

function frame(proposal: unknown, indices: number[]) {
  const head = new TextEncoder().encode(JSON.stringify(proposal));
  const bytes = new Uint8Array(4 + head.length + indices.length);
  new DataView(bytes.buffer).setUint32(0, head.length, true);
  bytes.set(head, 4);
  bytes.set(indices, 4 + head.length);
  return bytes.buffer;
}

describe("the frame of a preview", () => {
  it("holds a proposal and its index bytes", () => {
    const read = readFrame(frame({ width: 2, height: 2, sentence: "Dämmerung" }, [0, 1, 255, 7]));
    expect(read.proposal.sentence).toBe("Dämmerung");
    expect([...read.indices]).toEqual([0, 1, 255, 7]);
  });
  it("may hold no pixel", () => {
    expect(readFrame(frame({}, [])).indices).toHaveLength(0);
  });
  it("throws on a cut one instead of showing half a proposal", () => {
    const whole = frame({ sentence: "whole" }, []);
    expect(() => readFrame(whole.slice(0, 12))).toThrow();
  });
});

describe("an answer that may be a job", () => {
  const job = { id: "j", share: 0, state: "waiting" } as unknown as Job;
  it("is told from a palette", () => {
    expect(isJob(job)).toBe(true);
    expect(isJob({ id: "p", swatches: [] } as unknown as Palette)).toBe(false);
  });
  it("is open until it has ended", () => {
    expect(
      ["waiting", "working", "done", "failed", "cancelled"].map((state) => isOpen({ ...job, state } as Job)),
    ).toEqual([true, true, false, false, false]);
  });
});
