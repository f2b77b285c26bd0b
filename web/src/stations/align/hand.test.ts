import { describe, expect, it } from "vitest";
import { nudged, turnBetween, turnedTo } from "./hand";

const identity = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1];
const apply = (t: readonly number[], p: readonly number[]) =>
  [0, 1, 2].map((r) => t[4 * r] * p[0] + t[4 * r + 1] * p[1] + t[4 * r + 2] * p[2] + t[4 * r + 3]);

describe("a pose moved by hand", () => {
  it("shifts along an axis", () =>
    expect(apply(nudged(identity, "shift-y", 2, [0, 0, 0]), [1, 1, 1])).toEqual([1, 3, 1]));

  it("turns about an axis through the centre, which stays", () => {
    const centre = [3, 4, 5] as const;
    for (const of of ["turn-x", "turn-y", "turn-z"] as const) {
      apply(nudged(identity, of, 0.7, centre), centre).forEach((v, k) => expect(v).toBeCloseTo(centre[k], 12));
    }

    // A quarter turn about z takes x to y.
    apply(nudged(identity, "turn-z", Math.PI / 2, centre), [4, 4, 5]).forEach((v, k) =>
      expect(v).toBeCloseTo([3, 5, 5][k], 12),
    );
  });

  it("turns one direction to another by the least angle, about a centre that stays", () => {
    const centre = [3, 4, 5] as const;
    for (const [from, to, angle] of [
      [[0, 0, 1], [0, 1, 0], 90],
      [[0.6, 0.8, 0], [0, 1, 0], (Math.acos(0.8) * 180) / Math.PI],
      [[0, 0, 1], [0, 0, -1], 180],
      [[1, 0, 0], [-1, 0, 0], 180],
      [[0, 1, 0], [0, 1, 0], 0],
    ] as const) {
      const turned = turnedTo(identity, from, to, centre);
      apply(turned, centre).forEach((v, k) => expect(v).toBeCloseTo(centre[k], 12));
      apply(turned, [centre[0] + from[0], centre[1] + from[1], centre[2] + from[2]]).forEach((v, k) =>
        expect(v).toBeCloseTo(centre[k] + to[k], 12),
      );
      expect(turnBetween(turned, identity)).toBeCloseTo(angle, 9);
    }
  });

  it("comes back when it is taken back", () => {
    const away = nudged(nudged(identity, "turn-x", 0.3, [1, 2, 3]), "shift-z", 4, [1, 2, 3]);
    nudged(nudged(away, "shift-z", -4, [1, 2, 3]), "turn-x", -0.3, [1, 2, 3]).forEach((v, k) =>
      expect(v).toBeCloseTo(identity[k], 12),
    );
  });
});

describe("the turn between two poses", () => {
  const quarter = [0, -1, 0, 5, 1, 0, 0, 7, 0, 0, 1, 9, 0, 0, 0, 1];
  it("is that of what takes one to the other, wherever they lie", () => {
    expect(turnBetween(quarter, identity)).toBeCloseTo(90, 9);
    expect(turnBetween(quarter, quarter)).toBe(0);
    expect(turnBetween(nudged(identity, "turn-z", 1e-6, [0, 0, 0]), identity)).toBeCloseTo(1.8e-4 / Math.PI, 12);
    expect(turnBetween(nudged(quarter, "turn-x", Math.PI / 60, [1, 2, 3]), quarter)).toBeCloseTo(3, 9);
  });
});
