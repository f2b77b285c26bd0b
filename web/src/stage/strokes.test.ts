import { describe, expect, it } from "vitest";
import type { SectionSheet } from "../plan/sections";
import { deviationScale } from "./shown";
import { nearest, path, strokes, wholeOf } from "./strokes";

/** A straight edge of 10 mm, the scan 0.1 mm above it but for one point, which has no counterpart. */
const sheet: SectionSheet = {
  frame: { origin: [0, 0, 0], right: [1, 0, 0], up: [0, 0, 1], normal: [0, -1, 0] },
  nominal: [{ points: [0, 0, 10, 0], closed: false }],
  scan: [
    {
      points: [0, 0.1, 4, 0.1, 5, 0.1, 10, 0.1],
      feet: [0, 0, 4, 0, 5, 0, 10, 0],
      values: [0.1, 0.1, null, 0.1],
      closed: false,
      joined: true,
    },
  ],
  statistics: null,
  parts: [],
  remarks: [],
};

const scale = (upper: number) => deviationScale({ lower: -upper, upper }, { kind: "blue-rust", steps: null });

describe("a section's sheet", () => {
  it("draws strokes from where points belong, so many times as long as they lie off", () => {
    const within = scale(0.2);
    expect(strokes(sheet, 20, within, 1).map((s) => s.d)).toEqual(["M0 0L0 -2", "M4 0L4 -2", "M10 0L10 -2"]);
    expect(strokes(sheet, 20, within, 4.5)).toHaveLength(2);
  });

  it("ends those beyond a limit in a bar across", () => {
    const [first] = strokes(sheet, 20, scale(0.05), 1);
    expect(first.d).toBe("M0 0L0 -2M0.6 -2L-0.6 -2");
  });

  it("finds the measured point under a hand", () => {
    expect(nearest(sheet, 4.2, 0, 1)).toEqual({ value: 0.1, x: 4, y: 0.1 });
    expect(nearest(sheet, 6.5, 0, 1)).toBeNull();
  });

  it("shows all of the nominal, its upper side up", () => {
    const { x, y, width, height } = wholeOf(sheet);
    expect([x, y]).toEqual([expect.closeTo(-1.2), expect.closeTo(-1.2)]);
    expect(x + width).toBeGreaterThan(11);
    expect(height).toBeCloseTo(2.4);
    expect(path([0, 1, 2, 3, 4, 5], true)).toBe("M0 -1L2 -3L4 -5Z");
  });
});
