import { expect, test } from "vitest";
import { distanceBetween, type Place } from "./distances";

const top = { kind: "plane", numbers: [0, 0, 10, 0, 0, 1] };
const floor = { kind: "plane", numbers: [5, 5, 0, 0, 0, -1] };
const slope = { kind: "plane", numbers: [0, 0, 0, 0.6, 0, 0.8] };
const bore = { kind: "cylinder", numbers: [0, 0, 0, 0, 0, 1, 5] };
const faces = [top, floor, slope, bore];
const at = (point: number[], face: number | null, nominal: number[] | null = null): Place => ({ point, face, nominal });

test("the straight distance, its parts, and the nominal's", () => {
  const d = distanceBetween(at([1, 2, 3.1], 0, [1, 2, 3]), at([4, 6, 3.1], 1, [4, 6, 3]), faces);
  expect(d.straight).toBeCloseTo(5);
  expect(d.along).toEqual([3, 4, 0]);
  expect(d.nominal).toBeCloseTo(5);
  expect(distanceBetween(at([0, 0, 0], null), at([0, 0, 2], null), faces)).toMatchObject({
    nominal: null,
    toPlane: null,
  });
});

test("square to the plane that the second place lies on", () => {
  expect(distanceBetween(at([3, 4, 10.02], 0), at([90, 90, 0], 1), faces).toPlane).toBeCloseTo(10.02);
  expect(distanceBetween(at([5, 0, 0], 0), at([0, 0, 0], 2), faces).toPlane).toBeCloseTo(3);
  // A bore has no plane, and on one face there is nothing to be square to.
  expect(distanceBetween(at([3, 4, 10], 0), at([0, 0, 0], 3), faces).toPlane).toBeNull();
  expect(distanceBetween(at([3, 4, 10], 0), at([9, 9, 10], 0), faces)).toMatchObject({ toPlane: null, angle: null });
});

test("the angle between two planes does not depend on their sides", () => {
  expect(distanceBetween(at([0, 0, 0], 0), at([1, 0, 0], 1), faces).angle).toBeCloseTo(0);
  expect(distanceBetween(at([0, 0, 0], 1), at([1, 0, 0], 2), faces).angle).toBeCloseTo(36.8699, 4);
});
