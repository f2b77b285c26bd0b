import { expect, test } from "vitest";
import type { Schemas } from "../../api/client";
import { byNeed, largestUse, range, use } from "./trend";

const row = (
  no: number,
  measured: (number | null)[],
  more: Partial<Schemas["TrendRow"]> = {},
): Schemas["TrendRow"] => ({
  no,
  name: `row ${no}`,
  unit: "mm",
  decimals: 3,
  nominal: 20,
  lower: 19.9,
  upper: 20.1,
  values: measured.map((m) => ({
    measured: m,
    uncertainty: 0.01,
    verdict: m === null ? "not-measured" : "conforming",
  })),
  mean: null,
  deviation: null,
  ppk: null,
  drift: null,
  ...more,
});

test("the use of a tolerance is 0 in its middle and 1 at its limits", () => {
  expect(use(row(1, []), 20)).toBeCloseTo(0);
  expect(use(row(1, []), 19.9)).toBeCloseTo(1);
  expect(use(row(1, [], { nominal: null, lower: null, upper: 0.2 }), 0.05)).toBeCloseTo(0.25);
  expect(use(row(1, [], { lower: null, upper: null }), 5)).toBeNull();
});

test("what moves comes first, then what is missing, then what is near its limits", () => {
  const moves = row(3, [20, 20], { drift: { slope: 0.01, interval: 0.001, standsOut: true } });
  const still = row(5, [20, 20], { drift: { slope: 0.01, interval: 0.02, standsOut: false } });
  const rows = [still, row(1, [20.05, 20]), row(2, [20.09]), moves, row(4, [20, null])];
  expect(byNeed(rows).map((r) => r.no)).toEqual([3, 4, 2, 1, 5]);
  expect(largestUse(row(1, []))).toBe(0);
});

test("a chart shows both limits and whatever lies beyond them, with its uncertainty", () => {
  const [low, high] = range(row(1, [20.2]));
  expect(low).toBeLessThan(19.9);
  expect(high).toBeGreaterThan(20.21);
  expect(range(row(1, [0.1], { lower: null, upper: 0.2 }))[0]).toBeLessThan(0);
  expect(range(row(1, [], { lower: null, upper: null }))).toEqual([-0.08, 1.08]);
});
