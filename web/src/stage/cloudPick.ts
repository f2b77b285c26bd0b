/** What is looked for: a place of the picture, and how far round it a point may lie. */
interface Aim {
  x: number;
  y: number;
  width: number;
  height: number;
  /** CSS pixels. */
  radius: number;
  /** Points this much deeper than the foremost, in clip space, are hidden by it. */
  depth: number;
}

/**
 * The point of a cloud under a place of the picture: of those within the radius and not hidden behind others, the one nearest
 * to the place. Looks at every point once: a million take some milliseconds.
 *
 * @param positions x, y, z by turns.
 * @param toClip Column-major, from the points' coordinates to clip space, of a parallel projection.
 * @returns The index, or −1.
 */
export function pointUnder(positions: Float32Array, toClip: readonly number[], aim: Aim): number {
  const m = toClip;
  const [cx, cy] = [(2 * aim.x) / aim.width - 1, 1 - (2 * aim.y) / aim.height];
  const [sx, sy] = [aim.width / 2, aim.height / 2];
  const near: number[] = [];
  let foremost = Infinity;
  const reach = aim.radius * aim.radius;
  for (let i = 0; i < positions.length; i += 3) {
    const [x, y, z] = [positions[i], positions[i + 1], positions[i + 2]];
    const dx = (m[0] * x + m[4] * y + m[8] * z + m[12] - cx) * sx;
    const dy = (m[1] * x + m[5] * y + m[9] * z + m[13] - cy) * sy;
    const d = dx * dx + dy * dy;
    if (d <= reach) {
      const deep = m[2] * x + m[6] * y + m[10] * z + m[14];
      foremost = Math.min(foremost, deep);
      near.push(i / 3, d, deep);
    }
  }

  let [best, least] = [-1, Infinity];
  for (let k = 0; k < near.length; k += 3) {
    if (near[k + 2] <= foremost + aim.depth && near[k + 1] < least) {
      [best, least] = [near[k], near[k + 1]];
    }
  }

  return best;
}
