import type { FaceView, InspectionPlan, MapPlan, Schemas } from "../api/client";
import { axisOfFace } from "./sections";

export type MapKind = MapPlan["kind"];

/** The kinds of map beside that of the deviation, in groups as they are offered. */
export const mapKinds: Record<MapKind, { name: string; group: string }> = {
  "from-nominal": { name: "Nominal to scan: what is missing", group: "Deviation" },
  "along-direction": { name: "Deviation along a direction", group: "Deviation" },
  radial: { name: "Deviation radially from an axis", group: "Deviation" },
  "other-piece": { name: "Deviation from another piece", group: "Deviation" },
  residuals: { name: "Residuals of a feature", group: "Deviation" },
  remaining: { name: "What is left once it is explained", group: "Deviation" },
  thickness: { name: "Wall thickness", group: "Form" },
  draft: { name: "Draft against a pull", group: "Form" },
  curvature: { name: "Curvature", group: "Form" },
  spacing: { name: "Spacing of the points", group: "Scan" },
  moved: { name: "Moved by preparing", group: "Scan" },
};

const shortNames: Record<MapKind, string> = {
  "from-nominal": "Nominal to scan",
  "along-direction": "Along a direction",
  radial: "Radial",
  "other-piece": "Against a piece",
  residuals: "Residuals",
  remaining: "Left over",
  thickness: "Wall",
  draft: "Draft",
  curvature: "Curvature",
  spacing: "Spacing",
  moved: "Moved",
};

/**
 * A map of a kind, ready to be kept: it begins with what most parts ask of it.
 *
 * @param serial of the piece at work, against which a map is held until another is chosen.
 */
export function newMap(kind: MapKind, plan: InspectionPlan, faces: readonly FaceView[], serial: string): MapPlan {
  const taken = new Set((plan.compare?.maps ?? []).map((m) => m.name));
  const wanted = shortNames[kind];
  const name = taken.has(wanted)
    ? `${wanted} ${[2, 3, 4, 5, 6, 7, 8, 9].find((n) => !taken.has(`${wanted} ${n}`))}`
    : wanted;
  const band = { lower: plan.compare?.lower ?? null, upper: plan.compare?.upper ?? null };
  switch (kind) {
    case "from-nominal":
    case "along-direction":
    case "remaining":
      return { kind, name, ...band };
    case "radial":
      return { kind, name, ...band, ...(largestRound(faces) ?? {}) };
    case "other-piece":
      return { kind, name, ...band, piece: serial };
    case "residuals":
      return { kind, name, feature: plan.features?.[0]?.id ?? "" };
    default:
      return { kind, name };
  }
}

/** Point and axis of a face that has one; null for others. */
export const axisThrough = (face: FaceView): { point: number[]; axis: number[] } | null =>
  face.kind === "cylinder" || face.kind === "cone" || face.kind === "torus"
    ? { point: face.numbers.slice(0, 3), axis: axisOfFace(face) ?? [0, 0, 1] }
    : null;

/** The axis of the part: that of its largest round face. */
const largestRound = (faces: readonly FaceView[]) =>
  faces
    .filter((f) => axisThrough(f))
    .sort((a, b) => b.area - a.area)
    .map(axisThrough)[0];

/** The plan's map of a name; null: there is none, and the deviation is looked at. */
export const shownMap = (p: InspectionPlan, name: string | null): MapPlan | null =>
  (name !== null && p.compare?.maps?.find((m) => m.name === name)) || null;

/** The plan with other maps. A figure of a map that is gone shows the deviation. */
export const withMaps = (p: InspectionPlan, change: (maps: MapPlan[]) => MapPlan[]): InspectionPlan => {
  const maps = change(p.compare?.maps ?? []);
  const there = new Set(maps.map((m) => m.name));
  return {
    ...p,
    compare: { ...p.compare, maps } as Schemas["ComparePlan"],
    figures: (p.figures ?? []).map((f) => (f.map && !there.has(f.map) ? { ...f, map: null } : f)),
  };
};

/** The same map under another name, its figures with it. */
export const renamed = (p: InspectionPlan, from: string, to: string): InspectionPlan => ({
  ...p,
  compare: {
    ...p.compare,
    maps: (p.compare?.maps ?? []).map((m) => (m.name === from ? { ...m, name: to } : m)),
  } as Schemas["ComparePlan"],
  figures: (p.figures ?? []).map((f) => (f.map === from ? { ...f, map: to } : f)),
});
