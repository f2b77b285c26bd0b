import { describe, expect, it } from "vitest";
import type { InspectionPlan } from "../api/client";
import { mapOfRest, toggled } from "./explained";

const plan = (...maps: object[]) => ({ compare: { lower: -0.1, upper: 0.3, maps } }) as unknown as InspectionPlan;

describe("what is taken out of a deviation", () => {
  it("keeps its order, whatever is switched first", () => {
    expect(toggled(["size", "faces"], "pose")).toEqual(["pose", "size", "faces"]);
    expect(toggled(["pose", "size"], "pose")).toEqual(["size"]);
  });

  it("has one map for each choice", () => {
    const kept = { kind: "remaining", name: "Left over", without: ["pose", "size"] };
    expect(mapOfRest(plan(kept), ["pose", "size"])).toEqual({ map: kept, isNew: false });
    const { map, isNew } = mapOfRest(plan(kept), ["pose"]);
    expect(isNew).toBe(true);
    expect(map).toMatchObject({ kind: "remaining", name: "Left over 2", without: ["pose"], lower: -0.1, upper: 0.3 });
  });
});
