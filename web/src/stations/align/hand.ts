import type { Motion } from "../../api/client";

/**
 * A pose moved a little further: along an axis of the nominal (mm), or about one through a centre (rad).
 * @param pose Scan to nominal, 16 numbers row-major.
 */
export function nudged(
  pose: readonly number[],
  of: Motion,
  by: number,
  center: readonly [number, number, number],
): number[] {
  const axis = "xyz".indexOf(of.slice(-1));
  const t = [...pose];
  if (of.startsWith("shift")) {
    t[4 * axis + 3] += by;
    return t;
  }

  const [i, j] = [(axis + 1) % 3, (axis + 2) % 3];
  const [sin, cos] = [Math.sin(by), Math.cos(by)];
  for (let c = 0; c < 4; c++) {
    // The last column holds a place: it turns about the centre.
    const [p, q] =
      c === 3 ? [pose[4 * i + 3] - center[i], pose[4 * j + 3] - center[j]] : [pose[4 * i + c], pose[4 * j + c]];
    t[4 * i + c] = cos * p - sin * q + (c === 3 ? center[i] : 0);
    t[4 * j + c] = sin * p + cos * q + (c === 3 ? center[j] : 0);
  }

  return t;
}

/** By how much one pose is turned against another, degrees; 16 numbers row-major each. */
export function turnBetween(a: readonly number[], b: readonly number[]): number {
  const rotation = [0, 1, 2, 4, 5, 6, 8, 9, 10];

  // ‖A − B‖² = 8 sin²(θ/2): unlike the trace it tells small turns, too.
  const apart = Math.hypot(...rotation.map((k) => a[k] - b[k]));
  return (2 * Math.asin(Math.min(1, apart / Math.sqrt(8))) * 180) / Math.PI;
}
