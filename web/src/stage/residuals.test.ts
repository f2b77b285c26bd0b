import { describe, expect, it } from "vitest";
import { residualColor, residualScale } from "./residuals";

describe("colours of residuals", () => {
  it("are scaled by all but the largest 2 %", () => {
    const values = Array.from({ length: 100 }, (_, i) => (i % 2 ? -1 : 1) * (i + 1) * 0.001);
    expect(residualScale(values)).toBeCloseTo(0.099, 12);
    expect(residualScale([])).toBeGreaterThan(0);
  });

  it("tell the sign, and grow with the size up to the full colour", () => {
    expect(residualColor(0, 0.1)).toBe("rgb(244,238,221)");
    expect(residualColor(-0.1, 0.1)).toBe("rgb(106,42,131)");
    expect(residualColor(5, 0.1)).toBe("rgb(27,111,60)");
    expect(residualColor(0.05, 0.1)).toBe("rgb(136,175,141)");
  });
});
