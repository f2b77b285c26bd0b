import { describe, expect, it } from "vitest";
import { firstDirection, meanNormal, middleAndReach, mostOf } from "./firstView";

describe("the first view", () => {
  // A square in the plane z = 0, facing up or down by the order of its corners.
  const square = Float32Array.from([0, 0, 0, 1, 0, 0, 1, 1, 0, 0, 1, 0]);
  const up = Uint32Array.from([0, 1, 2, 0, 2, 3]);

  it("is the usual one when nothing speaks against it", () => {
    const [x, y, z] = firstDirection(square, up);
    expect([Math.sign(x), Math.sign(y), Math.sign(z)]).toEqual([-1, -1, 1]);
  });

  it("is from the side that was measured", () =>
    expect(firstDirection(square, Uint32Array.from([...up].reverse()))[2]).toBeLessThan(0));

  it("follows the scan where it is turned", () => {
    // Half a turn about x: what faced up faces down.
    const turned = [1, 0, 0, 0, 0, -1, 0, 0, 0, 0, -1, 0, 0, 0, 0, 1];
    expect(firstDirection(square, up, turned)[2]).toBeLessThan(0);
  });

  it("is as large as the part, not as its farthest stray point", () => {
    const points = new Float32Array(3 * 1000).map((_, i) => (Math.floor(i / 3) % 10) / 10);
    points[0] = 5000;
    const { min, max } = mostOf(points);
    expect(max.every((v) => v < 1)).toBe(true);
    expect(min).toEqual([0, 0, 0]);
  });

  it("of faces is their middle, and as far as they reach", () => {
    const faces = [
      { center: [0, 0, 5], area: 4 },
      { center: [8, 0, 5], area: 9 },
      { center: [4, 4, 5], area: 4 },
    ];
    expect(middleAndReach(faces)).toEqual({ middle: [4, 2, 5], reach: Math.hypot(8, 4, 3) });
    expect(middleAndReach(faces.slice(0, 1))).toEqual({ middle: [0, 0, 5], reach: 2 });
  });

  it("tells where a place faces from what lies near on its side alone", () => {
    const positions = new Float32Array([0, 0, 0, 1, 0, 0, 0, 1, 0, 0, 0, -0.5, 9, 9, 9]);
    const normals = new Float32Array([0, 0.6, 0.8, 0, -0.6, 0.8, 0, 0, 1, 0, 0, -1, 1, 0, 0]);
    meanNormal(positions, normals, [0, 0, 0], [0, 0, 1], 2)!.forEach((v, k) => expect(v).toBeCloseTo([0, 0, 1][k], 6));
    expect(meanNormal(positions, normals, [0, 0, 50], [0, 0, 1], 2)).toBeNull();
  });
});
