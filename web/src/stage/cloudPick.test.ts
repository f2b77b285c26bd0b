import { describe, expect, it } from "vitest";
import { pointUnder } from "./cloudPick";

// Clip space itself: 100 pixels wide and high, x to the right, y up, z into the picture.
const identity = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1];
const aim = { x: 50, y: 50, width: 100, height: 100, radius: 6, depth: 0.1 };

describe("the point of a cloud under the cursor", () => {
  it("is the nearest within the radius", () => {
    const points = new Float32Array([0.04, 0, 0, 0.02, 0, 0, 0.5, 0, 0]);
    expect(pointUnder(points, identity, aim)).toBe(1);
    expect(pointUnder(points, identity, { ...aim, x: 75 })).toBe(2);
    expect(pointUnder(points, identity, { ...aim, x: 90 })).toBe(-1);
  });

  it("is none that others hide", () => {
    const points = new Float32Array([0, 0, 0.9, 0.08, 0, 0.1, 0.06, 0, 0.15]);
    expect(pointUnder(points, identity, aim)).toBe(2);
  });

  it("follows the view", () => {
    const halved = [0.5, 0, 0, 0, 0, 0.5, 0, 0, 0, 0, 1, 0, 0.25, 0, 0, 1];
    expect(pointUnder(new Float32Array([0.5, 0, 0]), halved, { ...aim, x: 75 })).toBe(0);
  });
});
