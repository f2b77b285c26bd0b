import { describe, expect, it } from "vitest";
import { draggedBy, handles, seenAt, type Sight } from "./gripping";

const root = Math.SQRT1_2;

/** From above and in front: x to the right. */
const sight: Sight = {
  target: [5, 6, 7],
  right: [1, 0, 0],
  up: [0, root, root],
  back: [0, -root, root],
  scale: 0.5,
  width: 400,
  height: 300,
};
const centre = [20, 0, 3];

describe("handles of the part", () => {
  it("are strokes and arcs that are seen well; what is seen edge on has none", () => {
    expect(
      handles(sight, centre)
        .map((h) => h.motion)
        .sort(),
    ).toEqual(["shift-x", "shift-y", "shift-z", "turn-y", "turn-z"]);
    const front: Sight = { ...sight, up: [0, 0, 1], back: [0, -1, 0] };
    expect(
      handles(front, centre)
        .map((h) => h.motion)
        .sort(),
    ).toEqual(["shift-x", "shift-z", "turn-y"]);
  });

  it("a hand that follows a point of the part moves it as far as the point goes", () => {
    for (const [axis, motion] of (["shift-x", "shift-y", "shift-z"] as const).entries()) {
      const p = [11, -4, 9];
      const q = p.map((x, i) => (i === axis ? x + 3.25 : x));
      expect(draggedBy(sight, centre, motion, seenAt(sight, p), seenAt(sight, q))).toBeCloseTo(3.25, 9);
    }
  });

  it("a hand that follows a point about an axis turns the part as far", () => {
    for (const [i, motion] of [
      [1, "turn-y"],
      [2, "turn-z"],
    ] as const) {
      const [u, v] = [(i + 1) % 3, (i + 2) % 3];
      const at = (angle: number) => {
        const p = [...centre];
        p[u] += 8 * Math.cos(angle);
        p[v] += 8 * Math.sin(angle);
        return seenAt(sight, p);
      };
      expect(draggedBy(sight, centre, motion, at(0.4), at(1.3))).toBeCloseTo(0.9, 9);
      expect(draggedBy(sight, centre, motion, at(1.3), at(-0.2))).toBeCloseTo(-1.5, 9);
    }
  });
});
