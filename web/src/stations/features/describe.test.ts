import { describe, expect, it } from "vitest";
import type { MeasuredFeature } from "../../api/client";
import { asTable, beside, describeFace, mainNumber, parameters } from "./describe";

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
      body: 0,
      color: null,
    };
    expect(describeFace(face)).toBe("bore, ⌀16.040");
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

  it("go into a spreadsheet a row each, all of one length, with the reason of what is missing", () => {
    const features = ["b", "p"].map((id) => ({ id, name: id, faces: [], measured: null, construction: null }));
    features[0].name = "Bore\t1";
    const rows = asTable(features, (id) => (id === "b" ? bore : undefined))
      .split("\n")
      .map((line) => line.split("\t"));
    expect(rows.map((r) => r.length)).toEqual([16, 16, 16]);
    expect(rows[1].slice(0, 6)).toEqual(["Bore 1", "cylinder", "8.000000", "8.020000", "0.020000", "0.004000"]);
    expect(rows[1].slice(12)).toEqual(["0.004000", "900", expect.stringContaining("75"), ""]);
    expect(rows[2].at(-1)).toBe("not measured");
  });
});
