import { describe, expect, it } from "vitest";
import type { FaceView, InspectionPlan, Schemas } from "../api/client";
import {
  across,
  alongLine,
  axisOf,
  inSpace,
  movedTo,
  newName,
  offsetOf,
  onSheet,
  partAt,
  placesOf,
  reach,
  renamed,
  rowsIn,
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

  it("goes along a line on a surface and into it", () => {
    // On a ball about (1, 2, 3) every such plane goes through its centre.
    const onBall = (...n: number[]) => ({ normal: n, point: n.map((x, i) => 7 * x + [1, 2, 3][i]) });
    const [a, b] = [onBall(0.6, 0.8, 0), onBall(0, -0.6, 0.8)];
    const plane = alongLine(section, a, b)!;
    [a.point, b.point, [1, 2, 3]].forEach((p) => {
      expect(plane.normal.reduce((sum, x, i) => sum + x * (p[i] - plane.point[i]), 0)).toBeCloseTo(0, 12);
    });
    expect(Math.hypot(...plane.normal)).toBeCloseTo(1, 12);
    expect(alongLine(section, a, a)).toBeNull();
    // Straight through a plate: no line on its surface.
    expect(
      alongLine(section, { point: [0, 0, 0], normal: [0, 0, 1] }, { point: [0, 0, -2], normal: [0, 0, 1] }),
    ).toBeNull();
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

describe("what lies in a section", () => {
  const frame = { origin: [10, 0, 5], right: [0, 1, 0], up: [0, 0, 1], normal: [1, 0, 0] };

  it("is found on the sheet where it is in space, and back", () => {
    expect(onSheet(frame, [10, 3, 7])).toEqual([3, 2]);
    expect(placesOf(inSpace(frame, [3, 2, -1, 0]))).toEqual([
      [10, 3, 7],
      [10, -1, 5],
    ]);
  });

  it("is picked where a click comes near enough to it, the nearest first", () => {
    const part = (run: number[]) => ({ run }) as Schemas["SectionPart"];
    const parts = [part([0, 0, 10, 0]), part([0, 1, 10, 1, 10, 5])];
    expect(partAt(parts, 5, 0.4, 0.5)).toBe(0);
    expect(partAt(parts, 5, 0.7, 0.5)).toBe(1);
    expect(partAt(parts, 9.8, 4, 0.5)).toBe(1);
    expect(partAt(parts, 5, 3, 0.5)).toBe(-1);
    expect(partAt([], 0, 0, 1)).toBe(-1);
  });

  it("goes with the section when that gets another name", () => {
    const row = { kind: "radius-in-a-section", no: 4, name: "Root", section: "A", parts: [0, 0, 0] } as const;
    const plan = {
      compare: { sections: [section, { ...section, name: "B" }] },
      characteristics: [row, { ...row, no: 5, section: "B" }, { kind: "flatness", no: 6, name: "Base" }],
    } as unknown as InspectionPlan;
    expect(rowsIn(plan, "A").map((c) => c.no)).toEqual([4]);
    const now = renamed(plan, "A", "Waist");
    expect(now.compare!.sections!.map((s) => s.name)).toEqual(["Waist", "B"]);
    expect(rowsIn(now, "Waist").map((c) => c.no)).toEqual([4]);
    expect(rowsIn(now, "B").map((c) => c.no)).toEqual([5]);
  });
});
