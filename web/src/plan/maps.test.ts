import { describe, expect, it } from "vitest";
import type { FaceView, InspectionPlan } from "../api/client";
import { axisThrough, mapKinds, newMap, renamed, withMaps, type MapKind } from "./maps";

const face = (kind: string, area: number, numbers: number[]): FaceView => ({
  id: 0,
  kind,
  area,
  internal: false,
  numbers,
  center: [0, 0, 0],
  start: 0,
  end: 0,
  sweep: 0,
  body: 0,
  color: null,
});
const faces = [
  face("cylinder", 5, [9, 9, 9, 0, 1, 0, 2]),
  face("cylinder", 50, [1, 2, 3, 1, 0, 0, 4]),
  face("plane", 500, [0, 0, 0, 0, 0, 1]),
];
const plan = (over: object = {}) =>
  ({
    compare: { lower: -0.3, upper: 0.2, maps: [], ...over },
    features: [{ id: "bore" }],
    figures: [],
  }) as unknown as InspectionPlan;

describe("maps of a plan", () => {
  it("begin under a name of their own, those of deviation with the plan's band", () => {
    expect(newMap("thickness", plan(), faces, "1")).toEqual({ kind: "thickness", name: "Wall" });
    expect(newMap("draft", plan({ maps: [{ kind: "draft", name: "Draft" }] }), faces, "1").name).toBe("Draft 2");
    expect(newMap("from-nominal", plan(), faces, "1")).toMatchObject({ lower: -0.3, upper: 0.2 });
    expect(newMap("residuals", plan(), faces, "1")).toMatchObject({ feature: "bore" });
    expect(newMap("other-piece", plan(), faces, "0007")).toMatchObject({ piece: "0007" });
  });

  it("of every kind have a name to be found under", () =>
    (Object.keys(mapKinds) as MapKind[]).forEach((k) => expect(newMap(k, plan(), faces, "1").name).toBeTruthy()));

  it("run radially about the largest round face", () => {
    expect(newMap("radial", plan(), faces, "1")).toMatchObject({ point: [1, 2, 3], axis: [1, 0, 0] });
    expect(axisThrough(faces[2])).toBeNull();
  });

  it("take their figures with them, or leave them the deviation", () => {
    const kept = {
      ...plan({ maps: [{ kind: "draft", name: "Draft" }] }),
      figures: [{ map: "Draft" }, {}],
    } as unknown as InspectionPlan;
    expect(renamed(kept, "Draft", "Mould").figures?.map((f) => f.map)).toEqual(["Mould", undefined]);
    expect(renamed(kept, "Draft", "Mould").compare?.maps?.map((m) => m.name)).toEqual(["Mould"]);
    expect(withMaps(kept, () => []).figures?.map((f) => f.map)).toEqual([null, undefined]);
  });
});
