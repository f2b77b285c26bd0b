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

  return turned(
    pose,
    [0, 1, 2].map((i) => (i === axis ? 1 : 0)),
    by,
    center,
  );
}

/**
 * A pose turned about a centre by the least that takes one direction to another.
 * @param from A unit vector, as to.
 */
export function turnedTo(
  pose: readonly number[],
  from: readonly number[],
  to: readonly number[],
  center: readonly [number, number, number],
): number[] {
  const dot = from[0] * to[0] + from[1] * to[1] + from[2] * to[2];
  // About the axis square to both; straight behind, about any axis square to it.
  const across = dot > -1 + 1e-12 ? cross(from, to) : cross(from, Math.abs(from[0]) < 0.7 ? [1, 0, 0] : [0, 1, 0]);
  const length = Math.hypot(...across);
  const angle = Math.atan2(dot > -1 + 1e-12 ? length : 0, dot);
  return length < 1e-12
    ? [...pose]
    : turned(
        pose,
        across.map((v) => v / length),
        angle,
        center,
      );
}

/** A pose turned about an axis through a centre (Rodrigues' formula). */
function turned(
  pose: readonly number[],
  [x, y, z]: readonly number[],
  angle: number,
  center: readonly [number, number, number],
): number[] {
  const [sin, cos] = [Math.sin(angle), Math.cos(angle)];
  const k = 1 - cos;
  const r = [
    [cos + x * x * k, x * y * k - z * sin, x * z * k + y * sin],
    [y * x * k + z * sin, cos + y * y * k, y * z * k - x * sin],
    [z * x * k - y * sin, z * y * k + x * sin, cos + z * z * k],
  ];
  const t = [...pose];
  for (let row = 0; row < 3; row++) {
    for (let c = 0; c < 4; c++) {
      // The last column holds a place: it turns about the centre.
      const column = [0, 1, 2].map((i) => pose[4 * i + c] - (c === 3 ? center[i] : 0));
      t[4 * row + c] =
        r[row][0] * column[0] + r[row][1] * column[1] + r[row][2] * column[2] + (c === 3 ? center[row] : 0);
    }
  }

  return t;
}

const cross = (a: readonly number[], b: readonly number[]) => [
  a[1] * b[2] - a[2] * b[1],
  a[2] * b[0] - a[0] * b[2],
  a[0] * b[1] - a[1] * b[0],
];

/** By how much one pose is turned against another, degrees; 16 numbers row-major each. */
export function turnBetween(a: readonly number[], b: readonly number[]): number {
  const rotation = [0, 1, 2, 4, 5, 6, 8, 9, 10];

  // ‖A − B‖² = 8 sin²(θ/2): unlike the trace it tells small turns, too.
  const apart = Math.hypot(...rotation.map((k) => a[k] - b[k]));
  return (2 * Math.asin(Math.min(1, apart / Math.sqrt(8))) * 180) / Math.PI;
}
