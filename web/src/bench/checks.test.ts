import { describe, expect, it } from "vitest";
import { movedVerdicts } from "./checks";

type Reports = Parameters<typeof movedVerdicts>[0];

const reports = (verdicts: Record<string, string>) =>
  Object.entries(verdicts).map(([id, verdict]) => ({ id, verdict })) as unknown as Reports;

describe("verdicts that a trial moves", () => {
  it("are those that differ, with both", () => {
    expect(
      movedVerdicts(
        reports({ gray: "fails", forms: "look", text: "holds", eyes: "nothing" }),
        reports({ gray: "holds", forms: "fails", text: "holds", eyes: "nothing" }),
      ),
    ).toEqual([
      { id: "gray", before: "fails", after: "holds" },
      { id: "forms", before: "look", after: "fails" },
    ]);
  });
  it("are none of a check that was not asked before", () => {
    expect(movedVerdicts(reports({}), reports({ gray: "fails" }))).toEqual([]);
  });
});
