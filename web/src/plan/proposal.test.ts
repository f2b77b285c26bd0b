import { describe, expect, it } from "vitest";
import type { InspectionPlan } from "../api/client";
import { withProposed, type PlanProposal } from "./proposal";

const proposal = {
  features: ["top", "bore", "hole"].map((id) => ({ id, name: id, faces: [] })),
  datums: [
    { label: "A", features: ["top"] },
    { label: "B", features: ["bore"] },
  ],
  characteristics: [
    { kind: "flatness", no: 1, name: "flat", features: ["top"], tolerance: 0.1 },
    { kind: "position", no: 2, name: "place", features: ["hole"], datums: ["A"], tolerance: 0.2 },
    { kind: "diameter", no: 3, name: "size", features: ["bore"], nominal: 8, lower: -0.1, upper: 0.1 },
  ],
  doubts: [],
} as unknown as PlanProposal;

describe("what a nominal proposes", () => {
  it("comes with the features and datums that it rests on, and no others", () => {
    const plan = { features: [], datums: [], characteristics: [] } as unknown as InspectionPlan;
    const now = withProposed(plan, proposal, [proposal.characteristics[1]]);
    expect(now.features!.map((f) => f.id)).toEqual(["top", "hole"]);
    expect(now.datums!.map((d) => d.label)).toEqual(["A"]);
    expect(now.characteristics!.map((c) => [c.no, c.name])).toEqual([[1, "place"]]);
  });

  it("is numbered after what the plan asks already, without gaps", () => {
    const plan = {
      features: [],
      datums: [],
      characteristics: [{ kind: "flatness", no: 7, name: "own", tolerance: 1 }],
    } as unknown as InspectionPlan;
    const now = withProposed(plan, proposal, [proposal.characteristics[0], proposal.characteristics[2]]);
    expect(now.characteristics!.map((c) => c.no)).toEqual([7, 8, 9]);
    expect(now.datums).toEqual([]);
  });

  it("keeps the numbers of a drawing", () => {
    const plan = { features: [], datums: [], characteristics: [] } as unknown as InspectionPlan;
    const now = withProposed(plan, proposal, [proposal.characteristics[2]], true);
    expect(now.characteristics!.map((c) => c.no)).toEqual([3]);
  });
});
