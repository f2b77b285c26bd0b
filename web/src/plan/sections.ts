import type { CharacteristicPlan, InspectionPlan, Schemas } from "../api/client";

export type SectionPlan = Schemas["SectionPlan"];
export type SectionSheet = Schemas["SectionSheet"];
type Vector = readonly number[];

export const axes = ["x", "y", "z"] as const;
export type Axis = (typeof axes)[number];

const dot = (a: Vector, b: Vector) => a.reduce((sum, x, i) => sum + x * b[i], 0);
const unit = (v: Vector) => v.map((x) => x / Math.hypot(...v));
const cross = (a: Vector, b: Vector) =>
  [0, 1, 2].map((i) => {
    const [j, k] = [(i + 1) % 3, (i + 2) % 3];
    return a[j] * b[k] - a[k] * b[j];
  });

/** The axis a plane stands across; null for one that leans. */
export const axisOf = (s: SectionPlan): Axis | null =>
  axes.find((_, i) => Math.abs(Math.abs(unit(s.normal)[i]) - 1) < 1e-9) ?? null;

/** How far a plane lies along its normal, mm. */
export const offsetOf = (s: SectionPlan): number => dot(unit(s.normal), s.point);

/** The same plane elsewhere along its normal. */
export const movedTo = (s: SectionPlan, offset: number): SectionPlan => {
  const n = unit(s.normal);
  const by = offset - dot(n, s.point);
  return { ...s, point: s.point.map((x, i) => x + by * n[i]) };
};

/** A plane across an axis, through a point. */
export const across = (s: SectionPlan, axis: Axis, through: Vector): SectionPlan => ({
  ...s,
  point: [...through],
  normal: axes.map((a) => (a === axis ? 1 : 0)),
});

/** The plane through three points; null when they lie on a line. */
export function throughThree(s: SectionPlan, [a, b, c]: readonly Vector[]): SectionPlan | null {
  const [u, v] = [b, c].map((p) => p.map((x, i) => x - a[i]));
  const normal = cross(u, v);
  // Less than a thousandth of a right angle apart is a line for a hand that clicks.
  return Math.hypot(...normal) < 1e-3 * Math.hypot(...u) * Math.hypot(...v)
    ? null
    : { ...s, point: [...a], normal: unit(normal) };
}

/** A place on a surface, and outward from it. */
export interface OnSurface {
  point: Vector;
  normal: Vector;
}

/** The plane along a line drawn from one place of a surface to another, and into it; null when it says no plane. */
export function alongLine(s: SectionPlan, a: OnSurface, b: OnSurface): SectionPlan | null {
  const way = b.point.map((x, i) => x - a.point[i]);
  const into = a.normal.map((x, i) => x + b.normal[i]);
  const normal = cross(way, into);
  // The line must be one, and lead along the surface rather than through the part.
  return Math.hypot(...normal) <= 1e-3 * Math.hypot(...way) * Math.hypot(...into)
    ? null
    : { ...s, point: [...a.point], normal: unit(normal) };
}

/** mm that a plane stays inside the part: at its very end there is nothing to cut. */
const INSIDE = 0.02;

/** From where to where a plane cuts a box, along its normal. */
export function reach(s: SectionPlan, middle: Vector, size: Vector): [number, number] {
  const n = unit(s.normal);
  const half = n.reduce((sum, x, i) => sum + (Math.abs(x) * size[i]) / 2, 0) - INSIDE;
  return [dot(n, middle) - half, dot(n, middle) + half];
}

/** The direction of a face's axis, or of its normal; null for a ball or a free form. */
export const axisOfFace = ({ kind, numbers }: Schemas["FaceView"]): number[] | null =>
  ["plane", "cylinder", "cone", "torus"].includes(kind) ? numbers.slice(3, 6) : null;

/** The plan with other sections. */
export const withSections = (plan: InspectionPlan, to: (now: SectionPlan[]) => SectionPlan[]): InspectionPlan => ({
  ...plan,
  compare: { ...plan.compare!, sections: to(plan.compare?.sections ?? []) },
});

/** A name that no other section has. */
export const newName = (taken: readonly SectionPlan[]): string => {
  for (let n = 1; ; n++) {
    if (!taken.some((s) => s.name === `Section ${n}`)) {
      return `Section ${n}`;
    }
  }
};

/** Places of a sheet in space: 3·N coordinates of 2·N. */
export function inSpace(frame: Schemas["SheetFrame"], flat: Vector): number[] {
  const places: number[] = [];
  for (let i = 0; i < flat.length; i += 2) {
    for (let k = 0; k < 3; k++) {
      places.push(frame.origin[k] + flat[i] * frame.right[k] + flat[i + 1] * frame.up[k]);
    }
  }

  return places;
}

/** Where a place in space lies on a sheet. */
export function onSheet(frame: Schemas["SheetFrame"], place: Vector): [number, number] {
  const from = place.map((x, i) => x - frame.origin[i]);
  return [dot(from, frame.right), dot(from, frame.up)];
}

/** Of the lines and arcs of a sheet that nearest to a place, no farther than so much; its index, −1: none. */
export function partAt(parts: readonly Schemas["SectionPart"][], x: number, y: number, reach: number): number {
  const off = parts.map(({ run }) => {
    let least = Infinity;
    for (let i = 0; i + 3 < run.length; i += 2) {
      const [dx, dy] = [run[i + 2] - run[i], run[i + 3] - run[i + 1]];
      const along = ((x - run[i]) * dx + (y - run[i + 1]) * dy) / Math.max(1e-12, dx * dx + dy * dy);
      const t = Math.min(1, Math.max(0, along));
      least = Math.min(least, Math.hypot(x - run[i] - t * dx, y - run[i + 1] - t * dy));
    }

    return least;
  });
  const nearest = off.indexOf(Math.min(...off));
  return off[nearest] <= reach ? nearest : -1;
}

export type SectionRow = Extract<CharacteristicPlan, { kind: `${string}-in-a-section` | "profile-of-a-line" }>;

export const isInSection = (c: CharacteristicPlan): c is SectionRow => "section" in c;

/** Places of the lines and arcs that a row is asked of; none: it is asked of the cut itself. */
export const partsOf = (c: SectionRow): number[][] => ("parts" in c ? placesOf(c.parts ?? []) : []);

/** Points, of their coordinates one after the other. */
export const placesOf = (coordinates: Vector): number[][] =>
  Array.from({ length: coordinates.length / 3 }, (_, i) => coordinates.slice(3 * i, 3 * i + 3));

/** The characteristics of a plan that lie in a section. */
export const rowsIn = (plan: InspectionPlan, section: string): SectionRow[] =>
  (plan.characteristics ?? []).filter(isInSection).filter((c) => c.section === section);

/** The plan with a section under another name; what lies in it goes with it. */
export const renamed = (plan: InspectionPlan, from: string, to: string): InspectionPlan => ({
  ...withSections(plan, (all) => all.map((s) => (s.name === from ? { ...s, name: to } : s))),
  characteristics: (plan.characteristics ?? []).map((c) =>
    isInSection(c) && c.section === from ? { ...c, section: to } : c,
  ),
});

/** The arcs to which enough points of the scan belong, in the order of their numbers. */
export const measuredArcs = (parts: readonly Schemas["SectionPart"][]) =>
  parts.filter((p) => p.arc && p.measured !== null);

/** Turns a direction about an axis by degrees (Rodrigues). */
const turned = (v: Vector, axis: Vector, degrees: number): number[] => {
  const [n, a] = [unit(axis), (degrees * Math.PI) / 180];
  const [along, square] = [dot(n, v), cross(n, v)];
  return v.map((x, i) => x * Math.cos(a) + square[i] * Math.sin(a) + n[i] * along * (1 - Math.cos(a)));
};

/** A plane that holds the axis of a round face; null for a face without one. */
export function throughAxis(s: SectionPlan, face: Schemas["FaceView"]): SectionPlan | null {
  const axis = face.kind === "plane" ? null : axisOfFace(face);
  if (!axis) {
    return null;
  }

  // Square to the axis, and as near as can be to the direction that the axis leans to least.
  const least = axis.map(Math.abs).indexOf(Math.min(...axis.map(Math.abs)));
  const toward = axes.map((_, i) => (i === least ? 1 : 0));
  const along = dot(axis, toward);
  return {
    ...s,
    point: face.numbers.slice(0, 3),
    normal: unit(toward.map((x, i) => x - along * axis[i])).map((x) => Number(x.toFixed(12))),
  };
}

export type SeriesWay = "along" | Axis;

/**
 * Further planes in equal steps: along the normal of one (mm), or turned about an axis through its point (degrees). They
 * are numbered after it.
 */
export function series(s: SectionPlan, count: number, way: SeriesWay, step: number, taken: readonly SectionPlan[]) {
  const axis = axes.map((a) => (a === way ? 1 : 0));
  const made: SectionPlan[] = [];
  for (let k = 1, n = 2; k < count; k++, n++) {
    while (taken.some((t) => t.name === `${s.name} ${n}`)) {
      n++;
    }

    const plane =
      way === "along"
        ? movedTo(s, offsetOf(s) + k * step)
        : { ...s, normal: turned(s.normal, axis, k * step).map((x) => Number(x.toFixed(12))) };
    made.push({ ...plane, name: `${s.name} ${n}` });
  }

  return made;
}
