import { describe, expect, it } from "vitest";
import { zone } from "./zone";

describe("the zone bar", () => {
  it("puts a value at the middle of a two-sided zone in the middle of the bar", () => {
    const z = zone({ lowerLimit: 9, upperLimit: 11, measured: 10, uncertainty: 0.5 }, 1)!;
    expect(z.value).toBeCloseTo(0.5);
    expect([z.low, z.high]).toEqual([expect.closeTo(0.2), expect.closeTo(0.8)]);
    expect(z.errorHigh - z.errorLow).toBeCloseTo(0.3);
    expect(z.guardHigh).toBeCloseTo(0.65);
  });

  it("starts a one-sided zone at the left edge and clamps what lies far beyond", () => {
    const z = zone({ lowerLimit: null, upperLimit: 0.2, measured: 5, uncertainty: 0 }, 1)!;
    expect(z.low).toBe(0);
    expect(z.value).toBe(1);
  });

  it("shows nothing for what was not measured", () =>
    expect(zone({ lowerLimit: 0, upperLimit: 1, measured: null, uncertainty: null }, 1)).toBeNull());

  it.each([
    [0, 0.8],
    [0.5, 0.725],
    [2, 0.5],
  ])("shades guard bands of %d U", (factor, high) =>
    expect(zone({ lowerLimit: 9, upperLimit: 11, measured: 10, uncertainty: 0.5 }, factor)!.guardHigh).toBeCloseTo(
      high,
    ),
  );
});
