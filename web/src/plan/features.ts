import type { AlignPlan, ConstructionKind, ConstructionPlan, FeaturePlan, InspectionPlan } from "../api/client";
import { featuresOf } from "./characteristics";

/** A feature of the plan: measured on faces, or constructed from others. */
export interface PlanFeature {
  id: string;
  name: string;
  /** Faces of the nominal that it rests on. */
  faces: number[];
  /** Name of the alignment in which it stands; null: the plan's own. */
  alignment: string | null;
  measured: FeaturePlan | null;
  construction: ConstructionPlan | null;
}

/** All features of a plan, in the order in which they can be made. */
export function planFeatures(plan: InspectionPlan): PlanFeature[] {
  const all: PlanFeature[] = (plan.features ?? []).map((f) => ({
    id: f.id,
    name: f.name,
    faces: f.faces,
    alignment: f.alignment ?? null,
    measured: f,
    construction: null,
  }));
  for (const c of plan.constructions ?? []) {
    const faces = (c.from ?? []).flatMap((id) => all.find((f) => f.id === id)?.faces ?? []);
    const alignment = c.alignment ?? null;
    all.push({ id: c.id, name: c.name, faces: [...new Set(faces)], alignment, measured: null, construction: c });
  }

  return all;
}

/** Faces of the nominal on which picked features rest. */
export const facesOfFeatures = (all: readonly PlanFeature[], picked: readonly string[]): number[] => [
  ...new Set(picked.flatMap((id) => all.find((f) => f.id === id)?.faces ?? [])),
];

/** What is picked after one more: alone, or with the others, which it leaves again when it was among them. */
export const nextPicked = (picked: readonly string[], id: string, extend: boolean): string[] =>
  !extend ? [id] : picked.includes(id) ? picked.filter((x) => x !== id) : [...picked, id];

const restsOn = (align: AlignPlan, id: string): boolean =>
  align.method === "axis-system" && [align.first, align.second, ...(align.origin ?? [])].includes(id);

/** What of a plan would lose its footing without a feature. */
export const usersOf = (id: string, plan: InspectionPlan): string[] => [
  ...(plan.constructions ?? []).filter((c) => c.from?.includes(id)).map((c) => c.name),
  ...(plan.datums ?? []).filter((d) => d.features.includes(id)).map((d) => `datum ${d.label}`),
  ...(plan.align && restsOn(plan.align, id) ? ["the alignment"] : []),
  ...(plan.alignments ?? []).filter((a) => restsOn(a.align, id)).map((a) => `alignment ${a.name}`),
  ...(plan.characteristics ?? []).filter((c) => featuresOf(c).includes(id)).map((c) => `characteristic ${c.no}`),
];

interface Kind<K extends ConstructionKind> {
  name: string;
  /** A number that it needs beside the features. */
  number?: { key: keyof Extract<ConstructionPlan, { kind: K }> & string; label: string; min?: number };
  /** A choice that it offers. */
  flag?: { key: keyof Extract<ConstructionPlan, { kind: K }> & string; label: string };
  /** Whether it has a place of the nominal of its own, which is picked on the stage. */
  placed?: boolean;
}

/** Every kind of construction; the compiler finds one that is missing. */
const constructionKinds: { readonly [K in ConstructionKind]: Kind<K> } = {
  "point-of-planes": { name: "Point where three planes meet" },
  "pierced-point": { name: "Point where an axis pierces a plane" },
  "nearest-point": { name: "Point nearest to two axes" },
  centre: { name: "Centre" },
  "projected-point": { name: "Point projected onto a plane or axis" },
  "mid-point": { name: "Middle of points" },
  "extreme-point": {
    name: "Point farthest along a direction",
    flag: { key: "reverse", label: "Against the direction" },
  },
  "surface-point": { name: "Point of a surface, at a place", placed: true },
  "axis-through": { name: "Axis through points" },
  "axis-of-planes": { name: "Line where two planes meet" },
  "mid-axis": { name: "Middle of axes" },
  "axis-along": { name: "Axis through a point, along a direction" },
  "plane-through": { name: "Plane through points" },
  "mid-plane": { name: "Middle plane, or bisecting plane" },
  "offset-plane": { name: "Plane moved along its normal", number: { key: "distance", label: "Moved by, mm" } },
  "plane-of-axis": { name: "Plane through an axis and a point" },
  "plane-across": { name: "Plane across an axis" },
  "mirror-plane": { name: "Mirror plane of pairs" },
  "circle-through": { name: "Circle through places (pitch circle)" },
  "section-circle": { name: "Circle where a plane cuts" },
  "gauge-circle": {
    name: "Circle of a diameter on a cone",
    number: { key: "diameter", label: "Diameter, mm", min: 0 },
  },
  average: { name: "Average of repeated features" },
  "polar-pattern": {
    name: "Pattern about a centre",
    number: { key: "stepDegrees", label: "From place to place, °", min: 0 },
  },
  "linear-pattern": {
    name: "Pattern in a row",
    number: { key: "step", label: "From place to place, mm", min: 0 },
  },
};

/** A kind without its own type, for forms that show any. */
export const constructionKind = (kind: ConstructionKind) =>
  constructionKinds[kind] as {
    name: string;
    number?: { key: string; label: string; min?: number };
    flag?: { key: string; label: string };
    placed?: boolean;
  };
