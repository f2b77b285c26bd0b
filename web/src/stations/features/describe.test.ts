import { describe, expect, it } from "vitest";
import type { MeasuredFeature } from "../../api/client";
import { beside, describeFace, mainNumber, parameters } from "./describe";

describe("faces in words and numbers", () => {
  it("calls an internal cylinder a bore with its diameter", () => {
    const face = {
      id: 3,
      kind: "cylinder",
      area: 10,
      internal: true,
      numbers: [0, 0, 0, 0, 0, 1, 8.02],
      center: [],
      start: 0,
      end: 1,
      sweep: 2 * Math.PI,
      body: 0,
      color: null,
    };
    expect(describeFace(face)).toBe("bore, ⌀16.040");
    expect(describeFace({ ...face, sweep: Math.PI / 2 })).toBe("inner radius, R8.020");
    expect(describeFace({ ...face, sweep: Math.PI / 2, internal: false })).toBe("outer radius, R8.020");
  });

  it("compares axes at the same height and planes at the same place", () => {
    expect(beside("cylinder", [0, 0, -1, 0, 0, 1, 4], [0.1, 0, 37, 0, 0, 1, 4])).toEqual([0, 0, 37, 0, 0, 1, 4]);
    expect(beside("plane", [5, 5, 2, 0, 0, 1], [1, 2, 2.5, 0, 0, 1])).toEqual([1, 2, 2, 0, 0, 1]);
  });

  it("gives a cylinder's diameter first", () =>
    expect(parameters("cylinder", [0, 0, 0, 0, 0, 1, 4])[0]).toEqual(["diameter", 8, 4]));
});

describe("measured features", () => {
  const bore = {
    plan: { id: "b", name: "Bore\t1", faces: [3] },
    kind: "cylinder",
    measured: [1, 2, 3, 0, 0, 1, 4.01],
    nominal: [1, 2, 0, 0, 0, 1, 4],
    radiusSigma: 0.001,
    positionSigma: 0.002,
    used: 900,
    coverage: 0.75,
    construction: null,
    failure: null,
  } as unknown as MeasuredFeature;

  it("are known by a diameter, or by none", () => {
    expect(mainNumber(bore)).toEqual({ sign: "⌀", value: 8.02, nominal: 8, u: 0.004 });
    expect(mainNumber({ ...bore, kind: "axis" })).toBeNull();
  });
});
