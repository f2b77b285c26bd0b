import { describe, expect, it } from "vitest";
import { beyond, color, place, type Scale } from "./ramp";

const scale = (lower: number, upper: number, of: Partial<Scale> = {}): Scale => ({
  lower,
  upper,
  lowerBinds: true,
  upperBinds: true,
  ramp: { kind: "blue-rust", steps: null },
  ...of,
});

describe("the colours of a map", () => {
  it("puts the limits at the ends of the ramp and the nominal in the middle, whatever the limits", () => {
    expect(place(-0.3, scale(-0.3, 0.1))).toBeCloseTo(-1);
    expect(place(0.1, scale(-0.3, 0.1))).toBeCloseTo(1);
    expect(place(0, scale(-0.3, 0.1))).toBeCloseTo(0);
    expect(place(-0.15, scale(-0.3, 0.1))).toBeCloseTo(-0.5);
  });

  it("has its middle half way where 0 lies beyond", () => {
    expect(place(3, scale(2, 4))).toBeCloseTo(0);
    expect(place(2.5, scale(2, 4))).toBeCloseTo(-0.5);
  });

  it("stays at the end colour beyond the limits", () => {
    expect(color(5, scale(-0.1, 0.1))).toBe(color(0.1, scale(-0.1, 0.1)));
    expect(color(-5, scale(-0.1, 0.1))).toBe("rgb(11,79,108)");
    expect(beyond(5, scale(-0.1, 0.1))).toBe(1);
    expect(beyond(5, scale(-0.1, 0.1, { upperBinds: false }))).toBe(0);
    expect(beyond(-5, scale(-0.1, 0.1))).toBe(-1);
  });

  it("is paper-coloured on nominal", () => expect(color(0, scale(-0.1, 0.1))).toBe("rgb(244,238,221)"));

  it("goes in steps of one colour, as many on either side", () => {
    const stepped = scale(-0.1, 0.1, { ramp: { kind: "green-plum", steps: 2 } });
    expect(new Set([0.001, 0.02, 0.049].map((v) => color(v, stepped))).size).toBe(1);
    expect(new Set([-0.1, -0.06, -0.03, 0.03, 0.06, 0.1].map((v) => color(v, stepped))).size).toBe(4);
  });
});
