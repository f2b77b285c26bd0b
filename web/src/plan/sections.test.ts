import { describe, expect, it } from "vitest";
import type { FaceView } from "../api/client";
import {
  across,
  axisOf,
  inSpace,
  movedTo,
  newName,
  offsetOf,
  reach,
  series,
  throughAxis,
  throughThree,
  type SectionPlan,
} from "./sections";

const section: SectionPlan = { name: "A", point: [1, 2, 3], normal: [0, 0, -2] };

describe("a section's plane", () => {
  it("tells the axis it stands across and where it lies along its normal", () => {
    expect(axisOf(section)).toBe("z");
    expect(offsetOf(section)).toBe(-3);
    expect(axisOf({ ...section, normal: [0, 1, 1] })).toBeNull();
  });

  it("is moved along its normal and nowhere else", () => {
    const moved = movedTo({ ...section, normal: [0, 3, 4] }, 10);
    expect(offsetOf(moved)).toBeCloseTo(10, 12);
    expect(moved.point[0]).toBe(1);
    expect(moved.normal).toEqual([0, 3, 4]);
  });

  it("goes through three points, unless they lie on a line", () => {
    const points = [[5, 0, 0], [0, 5, 0], [0, 0, 5]]; // prettier-ignore
    const plane = throughThree(section, points)!;
    points.forEach((p) => {
      expect(plane.normal.reduce((sum, x, i) => sum + x * (p[i] - plane.point[i]), 0)).toBeCloseTo(0, 12);
    });
    expect(throughThree(section, [[0, 0, 0], [1, 1, 1], [2, 2, 2]])).toBeNull(); // prettier-ignore
  });

  it("cuts a box between its farthest corners along the normal", () => {
    expect(reach(across(section, "y", [0, 0, 0]), [10, 20, 30], [2, 4, 6])).toEqual([18.02, 21.98]);
    const [from, to] = reach({ ...section, normal: [1, 1, 0] }, [0, 0, 0], [2, 4, 6]);
    expect([from, to]).toEqual([expect.closeTo(0.02 - 3 / Math.SQRT2), expect.closeTo(3 / Math.SQRT2 - 0.02)]);
  });
});

describe("sections of a plan", () => {
  it("get names of their own", () => {
    expect(newName([])).toBe("Section 1");
    expect(newName([{ ...section, name: "Section 1" }])).toBe("Section 2");
  });

  it("are laid into space by their sheet's axes", () => {
    const frame = { origin: [1, 1, 1], right: [0, 1, 0], up: [0, 0, 1], normal: [1, 0, 0] };
    expect(inSpace(frame, [2, 3, 0, -1])).toEqual([1, 3, 4, 1, 1, 0]);
  });
});

describe("planes from one", () => {
  it("repeats along the normal, whichever way that is written, past names that are taken", () => {
    const made = series(section, 3, "along", 10, [{ ...section, name: "A 2" }]);
    expect(made.map((s) => s.name)).toEqual(["A 3", "A 4"]);
    expect(made.map(offsetOf)).toEqual([7, 17]);
    expect(made.map((s) => s.point[2])).toEqual([-7, -17]);
  });

  it("turns about an axis through its point", () => {
    const made = series({ ...section, normal: [1, 0, 0] }, 4, "z", 30, []);
    made.forEach((s, i) => {
      const angle = ((i + 1) * 30 * Math.PI) / 180;
      [Math.cos(angle), Math.sin(angle), 0].forEach((x, k) => expect(s.normal[k]).toBeCloseTo(x, 11));
      expect(s.point).toEqual(section.point);
    });
  });

  it("holds the axis of a round face, and of no other", () => {
    const bore = { kind: "cylinder", numbers: [4, 5, 6, 0, 0.6, 0.8, 3] } as FaceView;
    const along = throughAxis(section, bore)!;
    expect(along.point).toEqual([4, 5, 6]);
    expect(along.normal).toEqual([1, 0, 0]);
    expect(throughAxis(section, { kind: "plane", numbers: [0, 0, 0, 0, 0, 1] } as FaceView)).toBeNull();
  });
});
