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

/**
 * How far one pose moves the corner of a box that it moves most against another, and how far it turns it.
 * @param box In nominal coordinates: least x, y, z and greatest x, y, z.
 */
export function poseChange(
  a: readonly number[],
  b: readonly number[],
  box: readonly number[],
): { moves: number; degrees: number } {
  let moves = 0;
  for (let corner = 0; corner < 8; corner++) {
    const p = [0, 1, 2].map((k) => box[k + (corner & (1 << k) ? 3 : 0)]);

    // The corner's place on the scan is found by the one pose and brought back by the other.
    const scan = [0, 1, 2].map((k) => [0, 1, 2].reduce((s, r) => s + b[4 * r + k] * (p[r] - b[4 * r + 3]), 0));
    const d = [0, 1, 2].map((r) => [0, 1, 2].reduce((s, k) => s + a[4 * r + k] * scan[k], a[4 * r + 3]) - p[r]);
    moves = Math.max(moves, Math.hypot(...d));
  }

  return { moves, degrees: turnBetween(a, b) };
}
