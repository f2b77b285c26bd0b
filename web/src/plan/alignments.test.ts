import { describe, expect, it } from "vitest";
import type { InspectionPlan } from "../api/client";
import { alignOf, freeName, held, renamed, standingIn, without } from "./alignments";

const plan = {
  align: { method: "all-surfaces" },
  alignments: [
    { name: "as assembled", align: { method: "faces", faces: [3] } },
    { name: "alignment 2", align: { method: "datums", datums: ["A"] } },
  ],
  compare: { alignment: "as assembled" },
  features: [
    { id: "bore", name: "Bore", faces: [1], alignment: "as assembled" },
    { id: "face", name: "Face", faces: [2] },
  ],
  constructions: [],
  characteristics: [
    { kind: "diameter", no: 1, name: "Bore", alignment: "alignment 2" },
    { kind: "flatness", no: 2, name: "Flat" },
  ],
} as unknown as InspectionPlan;

describe("the alignments of a plan", () => {
  it("are held each in its own way, and changed each alone", () => {
    expect(alignOf(plan, null)?.method).toBe("all-surfaces");
    expect(alignOf(plan, "alignment 2")?.method).toBe("datums");
    expect(alignOf(plan, "gone")).toBeUndefined();
    const other = held(plan, "as assembled", { method: "as-given", start: [] });
    expect(alignOf(other, "as assembled")?.method).toBe("as-given");
    expect(alignOf(other, null)).toBe(plan.align);
    expect(alignOf(held(plan, null, { method: "as-given", start: [] }), null)?.method).toBe("as-given");
  });

  it("tell what stands in them", () => {
    expect(standingIn(plan, "as assembled")).toEqual(["the map", "Bore"]);
    expect(standingIn(plan, "alignment 2")).toEqual(["characteristic 1"]);
  });

  it("take along what stands in them when they are renamed, and nothing else", () => {
    const now = renamed(plan, "as assembled", "on the car");
    expect(standingIn(now, "on the car")).toEqual(["the map", "Bore"]);
    expect(standingIn(now, "as assembled")).toEqual([]);
    expect(standingIn(now, "alignment 2")).toEqual(["characteristic 1"]);
    expect(now.features?.[1].alignment).toBeUndefined();
  });

  it("begin under a name that is free", () => {
    expect(freeName(plan)).toBe("alignment 3");
    expect(freeName(without(plan, "as assembled"))).toBe("alignment 3");
    expect(freeName({ ...plan, alignments: [] })).toBe("alignment 1");
  });
});
