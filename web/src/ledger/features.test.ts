import { describe, expect, it } from "vitest";
import type { InspectionPlan, MeasuredFeature } from "../api/client";
import { featureRows, featureTable, placeOff, sortedFeatures, withWords } from "./features";
import { asCsv, asTabs } from "./table";

const plan = {
  features: [
    { id: "b10", name: "Bore 10", faces: [3] },
    { id: "b9", name: "Bore 9, wide", faces: [4] },
    { id: "p", name: "=Plane", faces: [5] },
    { id: "lost", name: "Lost", faces: [6] },
  ],
} as unknown as InspectionPlan;

const bore = (id: string, radius: number) =>
  ({
    plan: { id },
    kind: "cylinder",
    measured: [0.3, 0.4, 3, 0, 0, 1, radius],
    nominal: [0, 0, 0, 0, 0, 1, 4],
    radiusSigma: 0.001,
    positionSigma: 0.002,
    used: 900,
    coverage: 0.75,
    failure: null,
  }) as unknown as MeasuredFeature;

const results = [
  bore("b10", 4.01),
  bore("b9", 4.1),
  { ...bore("p", 0), kind: "plane", measured: [9, 9, 1.9, 0, 0, 1], nominal: [0, 0, 2, 0, 0, 1] },
  { ...bore("lost", 0), failure: "no points" },
] as MeasuredFeature[];

const rows = featureRows(plan, results);
const names = (of: typeof rows) => of.map((r) => r.feature.id);

describe("the table of features", () => {
  it("says how far each lies off its place: across an axis, along a normal", () => {
    expect(placeOff(results[0])).toBeCloseTo(0.5, 12);
    expect(rows.map((r) => r.off)).toEqual([expect.closeTo(0.5), expect.closeTo(0.5), expect.closeTo(-0.1), null]);
  });

  it("sorts names by their numbers, deviations with the worst first, what is missing last", () => {
    expect(names(sortedFeatures(rows, "name"))).toEqual(["p", "b9", "b10", "lost"]);
    expect(names(sortedFeatures(rows, "deviation")).slice(0, 2)).toEqual(["b9", "b10"]);
    expect(names(sortedFeatures(rows, "order"))).toEqual(["b10", "b9", "p", "lost"]);
  });

  it("lists those that hold every word", () => {
    expect(names(withWords(rows, "bore WIDE"))).toEqual(["b9"]);
    expect(names(withWords(rows, "plane"))).toEqual(["p"]);
    expect(names(withWords(rows, " "))).toHaveLength(4);
  });

  it("goes out with all rows of one length, quotes where they are needed, and no formula", () => {
    const table = featureTable(rows);
    expect(new Set(table.map((r) => r.length))).toEqual(new Set([18]));
    expect(table[1].slice(0, 6).map((c) => (typeof c === "number" ? Number(c.toFixed(9)) : c))).toEqual([
      "Bore 10",
      "cylinder",
      8,
      8.02,
      0.02,
      0.004,
    ]);
    const lines = asCsv(table).split("\r\n");
    expect(lines[2].startsWith('"Bore 9, wide",cylinder,8,8.2,')).toBe(true);
    expect(lines[3].startsWith("'=Plane,plane,")).toBe(true);
    expect(lines[4].endsWith(",no points")).toBe(true);
    expect(asTabs([["a\tb", 1.5]])).toBe("a b\t1.5");
  });
});
