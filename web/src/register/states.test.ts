import { describe, expect, it } from "vitest";
import { stateOf } from "./states";

const issued = {
  withdrawnAt: null,
  withdrawnBy: null,
  withdrawnWhy: null,
  supersededBy: null,
  countersignedAt: null,
  countersignedBy: null,
  needsCountersignature: false,
};

describe("the state of a report", () => {
  it("is told by the last thing that happened to it", () => {
    expect(stateOf(issued).name).toBe("issued");
    expect(stateOf({ ...issued, needsCountersignature: true }).name).toBe("awaits a countersignature");
    const signed = {
      ...issued,
      needsCountersignature: true,
      countersignedAt: "2026-12-01T10:00:00Z",
      countersignedBy: "a",
    };
    expect(stateOf(signed).name).toBe("countersigned");
    expect(stateOf({ ...signed, supersededBy: "BR-1002" }).name).toBe("superseded by BR-1002");
    const withdrawn = {
      ...signed,
      supersededBy: "BR-1002",
      withdrawnAt: "2026-12-01T11:00:00Z",
      withdrawnBy: "a",
      withdrawnWhy: "w",
    };
    expect(stateOf(withdrawn).name).toBe("withdrawn: w");
  });
});
