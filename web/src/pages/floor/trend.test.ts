import { expect, test } from "vitest";
import type { Schemas } from "../../api/client";
import { range } from "./trend";

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
  ppk: null,
  drift: null,
  ...more,
});

test("a chart shows both limits and whatever lies beyond them, with its uncertainty", () => {
  const [low, high] = range(row(1, [20.2]));
  expect(low).toBeLessThan(19.9);
  expect(high).toBeGreaterThan(20.21);
  expect(range(row(1, [0.1], { lower: null, upper: 0.2 }))[0]).toBeLessThan(0);
  expect(range(row(1, [], { lower: null, upper: null }))).toEqual([-0.08, 1.08]);
});
