import { describe, expect, it } from "vitest";
import { fixed, percent, roundBelow, signed, size } from "./format";

describe("numbers as written", () => {
  it("has no minus before zero and a true minus elsewhere", () => {
    expect(fixed(-0.00001)).toBe("0.000");
    expect(fixed(-1.5, 1)).toBe("−1.5");
    expect(signed(-0.00001)).toBe("+0.000");
    expect(signed(-0.25, 2)).toBe("−0.25");
  });

  it("shows a dash for what is not there", () => {
    expect([fixed(null), signed(undefined), percent(Number.NaN)]).toEqual(["–", "–", "–"]);
  });

  it("has round lengths for scale bars", () => {
    expect([1, 1.99, 49, 50, 999, 0.034].map(roundBelow)).toEqual([1, 1, 20, 50, 500, 0.02]);
  });

  it("gives sizes in both units", () => {
    expect(size([25.4, 50.8, 0], "inch")).toBe("1.00 × 2.00 × 0.00");
    expect(size([25.4, 50.8, 0], "mm")).toBe("25.4 × 50.8 × 0.0");
  });
});
