import { describe, expect, it } from "vitest";
import { color, place } from "./ramp";

describe("the deviation ramp", () => {
  it("puts the limits at its ends and the nominal in the middle, whatever the limits", () => {
    expect(place(-0.3, -0.3, 0.1)).toBeCloseTo(-1);
    expect(place(0.1, -0.3, 0.1)).toBeCloseTo(1);
    expect(place(0, -0.3, 0.1)).toBeCloseTo(0);
    expect(place(-0.15, -0.3, 0.1)).toBeCloseTo(-0.5);
  });

  it("stays at the end colour beyond the limits", () => {
    expect(color(5, -0.1, 0.1)).toBe(color(0.1, -0.1, 0.1));
    expect(color(-5, -0.1, 0.1)).toBe("rgb(11,79,108)");
  });

  it("is paper-coloured on nominal", () => expect(color(0, -0.1, 0.1)).toBe("rgb(244,238,221)"));
});
