import type { Motion } from "../api/client";

type Vector = readonly number[];

/** How the part is seen, in parallel projection: a point of the picture and its axes in nominal coordinates. */
export interface Sight {
  /** What lies in the middle of the picture. */
  target: Vector;
  right: Vector;
  up: Vector;
  /** Towards the eye. */
  back: Vector;
  /** Millimetres a pixel. */
  scale: number;
  width: number;
  height: number;
}

/** A stroke of the picture by which one motion of the part is held. */
export interface Handle {
  motion: Motion;
  /** CSS pixels. */
  path: [number, number][];
}

/** Of what is seen end on, or edge on, a small move of the hand would be a large one of the part: cosine. */
const FLAT = 0.25;

/** Reach of the strokes, as a share of the picture's height. */
const REACH = 0.32;

const dot = (a: Vector, b: Vector) => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
const plus = (a: Vector, b: Vector, by = 1) => a.map((x, i) => x + by * b[i]);
const unit = (axis: number) => [0, 1, 2].map((i) => (i === axis ? 1 : 0));
const axisOf = (motion: Motion) => "xyz".indexOf(motion.slice(-1));

/** Where a point lies in the picture. */
export const seenAt = (s: Sight, p: Vector): [number, number] => {
  const d = plus(p, s.target, -1);
  return [s.width / 2 + dot(d, s.right) / s.scale, s.height / 2 - dot(d, s.up) / s.scale];
};

/**
 * The strokes and arcs that are seen well, in the octant that faces the eye: a stroke along each axis, an arc about each.
 * @param centre Which they surround.
 */
export function handles(s: Sight, centre: Vector): Handle[] {
  const reach = REACH * s.height * s.scale;
  const ahead = [0, 1, 2].map((i) => (s.back[i] < 0 ? unit(i).map((x) => -x) : unit(i)));
  const strokes = ([0, 1, 2] as const)
    .filter((i) => 1 - s.back[i] ** 2 > FLAT ** 2)
    .map((i) => ({
      motion: `shift-${"xyz"[i]}` as Motion,
      path: [0.5, 1].map((share) => seenAt(s, plus(centre, ahead[i], share * reach))),
    }));
  const arcs = ([0, 1, 2] as const)
    .filter((i) => Math.abs(s.back[i]) > FLAT)
    .map((i) => {
      const [u, v] = [ahead[(i + 1) % 3], ahead[(i + 2) % 3]];
      return {
        motion: `turn-${"xyz"[i]}` as Motion,
        path: Array.from({ length: 13 }, (_, k) => {
          const angle = ((18 + 4.5 * k) * Math.PI) / 180;
          const rim = plus(
            u.map((x) => x * Math.cos(angle)),
            v,
            Math.sin(angle),
          );
          return seenAt(s, plus(centre, rim, 0.8 * reach));
        }),
      };
    });
  return [...strokes, ...arcs];
}

/**
 * By how much a motion follows a hand from one place of the picture to another: mm, or rad.
 * @param centre About which it turns.
 */
export function draggedBy(s: Sight, centre: Vector, motion: Motion, from: Vector, to: Vector): number {
  const axis = unit(axisOf(motion));
  if (motion.startsWith("shift")) {
    // Pixels of one millimetre along the axis: what the hand moved along them is the shift.
    const along = [dot(axis, s.right) / s.scale, -dot(axis, s.up) / s.scale];
    const moved = [to[0] - from[0], to[1] - from[1]];
    return (along[0] * moved[0] + along[1] * moved[1]) / (along[0] ** 2 + along[1] ** 2);
  }

  // The angle between where the two rays meet the plane of the arc.
  const rim = ([x, y]: Vector) => {
    const p = plus(plus(s.target, s.right, (x - s.width / 2) * s.scale), s.up, (s.height / 2 - y) * s.scale);
    const d = plus(p, centre, -1);
    return plus(d, s.back, -dot(d, axis) / dot(s.back, axis));
  };
  const [a, b] = [rim(from), rim(to)];
  const i = axisOf(motion);
  const [u, v] = [(i + 1) % 3, (i + 2) % 3];
  return Math.atan2(a[u] * b[v] - a[v] * b[u], a[u] * b[u] + a[v] * b[v]);
}
