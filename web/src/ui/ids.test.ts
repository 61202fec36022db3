import { afterEach, describe, expect, it, vi } from "vitest";
import { newId } from "./ids";

afterEach(() => vi.unstubAllGlobals());

describe("an id", () => {
  it("is a random one of version 4 (RFC 9562), where a page has no other way to one too", () => {
    const { getRandomValues } = crypto;
    vi.stubGlobal("crypto", { getRandomValues: getRandomValues.bind(crypto) });
    const ids = new Set(Array.from({ length: 200 }, newId));
    expect(ids.size).toBe(200);
    for (const id of ids)
      expect(id).toMatch(/^[0-9a-f]{8}-[0-9a-f]{4}-4[0-9a-f]{3}-[89ab][0-9a-f]{3}-[0-9a-f]{12}$/);
  });
  it("keeps every other bit", () => {
    vi.stubGlobal("crypto", { getRandomValues: (bytes: Uint8Array) => bytes.fill(0xff) });
    expect(newId()).toBe("ffffffff-ffff-4fff-bfff-ffffffffffff");
  });
});
