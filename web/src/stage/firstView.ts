/** Directions worth opening a part from: over each of its eight corners. */
const corners = [-1, 1].flatMap((x) =>
  [-1, 1].flatMap((y) => [1, -1].map((z) => normalized([0.55 * x, 0.7 * y, 0.6 * z]))),
);

/** Where the eye stands when nothing tells a better place. */
const USUAL = normalized([-0.55, -0.7, 0.6]);

/** So much more surface must face the eye before another place than the usual one is taken. */
const WORTH = 1.05;

/** Triangles looked at; more say the same. */
const MOST = 20000;

/**
 * The direction, from the part to the eye, that most of a surface faces. A scan has an inside and an outside: what was
 * measured faced the device.
 * @param positions 3·V coordinates.
 * @param indices 3·T vertices, outward by their order.
 * @param turn From the scan's coordinates to those of the view, column-major 4×4 as three.js has it.
 */
export function firstDirection(positions: Float32Array, indices: Uint32Array, turn?: readonly number[]): number[] {
  const triangles = Math.floor(indices.length / 3);
  const facing = corners.map(() => 0);
  const step = Math.max(1, Math.floor(triangles / MOST));
  for (let t = 0; t < triangles; t += step) {
    const [a, b, c] = [0, 1, 2].map((k) => 3 * indices[3 * t + k]);
    const u = [0, 1, 2].map((k) => positions[b + k] - positions[a + k]);
    const v = [0, 1, 2].map((k) => positions[c + k] - positions[a + k]);
    const n = [u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]];
    const seen = turn ? [0, 1, 2].map((k) => turn[k] * n[0] + turn[4 + k] * n[1] + turn[8 + k] * n[2]) : n;
    corners.forEach((d, i) => (facing[i] += Math.max(0, d[0] * seen[0] + d[1] * seen[1] + d[2] * seen[2])));
  }

  const usual = corners.findIndex((d) => d.every((x, k) => x === USUAL[k]));
  const best = facing.indexOf(Math.max(...facing));
  return facing[best] > WORTH * facing[usual] ? corners[best] : USUAL;
}

/** The box of nearly all points: a few stray ones far away do not make everything small. */
export function mostOf(positions: Float32Array): { min: number[]; max: number[] } {
  const share = 0.002;
  const axes = [0, 1, 2].map((k) => {
    const step = Math.max(1, Math.floor(positions.length / 3 / MOST));
    const values: number[] = [];
    for (let i = k; i < positions.length; i += 3 * step) {
      values.push(positions[i]);
    }

    values.sort((a, b) => a - b);
    const last = values.length - 1;
    return [values[Math.floor(share * last)], values[Math.ceil((1 - share) * last)]];
  });
  return { min: axes.map((a) => a[0]), max: axes.map((a) => a[1]) };
}

function normalized(d: number[]): number[] {
  const length = Math.hypot(...d);
  return d.map((x) => x / length);
}

/**
 * Mean of the normals within a radius of a place that face to one side; null when there are none.
 * @param positions x, y, z by turns, as the normals.
 */
export function meanNormal(
  positions: Float32Array,
  normals: Float32Array,
  at: readonly number[],
  side: readonly number[],
  radius: number,
): [number, number, number] | null {
  const sum = [0, 0, 0];
  for (let i = 0; i < positions.length; i += 3) {
    const [dx, dy, dz] = [positions[i] - at[0], positions[i + 1] - at[1], positions[i + 2] - at[2]];
    const along = normals[i] * side[0] + normals[i + 1] * side[1] + normals[i + 2] * side[2];
    if (dx * dx + dy * dy + dz * dz < radius * radius && along > 0.5) {
      sum[0] += normals[i];
      sum[1] += normals[i + 1];
      sum[2] += normals[i + 2];
    }
  }

  const length = Math.hypot(...sum);
  return length > 0 ? [sum[0] / length, sum[1] / length, sum[2] / length] : null;
}

/** The middle of faces, and a length that tells how far they reach: of one face the side of a square as large. */
export function middleAndReach(faces: readonly { center: readonly number[]; area: number }[]): {
  middle: number[];
  reach: number;
} {
  const of = (k: number, pick: (...values: number[]) => number) => pick(...faces.map((f) => f.center[k]));
  const least = [0, 1, 2].map((k) => of(k, Math.min));
  const most = [0, 1, 2].map((k) => of(k, Math.max));
  return {
    middle: least.map((v, k) => (v + most[k]) / 2),
    reach: Math.hypot(...least.map((v, k) => most[k] - v), Math.sqrt(Math.max(...faces.map((f) => f.area)))),
  };
}
