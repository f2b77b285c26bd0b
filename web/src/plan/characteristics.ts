import type { CharacteristicKind, CharacteristicPlan, InspectionPlan } from "../api/client";

type Of<K extends CharacteristicKind> = Extract<CharacteristicPlan, { kind: K }>;
type Switch<P> = { [K in keyof P]-?: NonNullable<P[K]> extends boolean ? K : never }[keyof P] & string;

/** What a form needs to know of a kind; what it computes is the core's. */
export interface Kind<K extends CharacteristicKind = CharacteristicKind> {
  name: string;
  /**
   * How many features it takes, "pair": one or two, "many": one or more; "faces": faces of the nominal instead; "cut": a
   * section of the plan and faces in it; else lines and arcs of a section.
   */
  of: 1 | 2 | "pair" | "many" | "faces" | "cut" | "part" | "parts";
  limits: "deviations" | "zone";
  unit: "mm" | "°";
  datums: boolean;
  filter: boolean;
  switches: readonly { key: Switch<Of<K>>; label: string }[];
  /** Its tolerance may grow with the size of its feature; a datum may be taken at its boundary. */
  material?: boolean;
  boundary?: boolean;
  /** The middle of its zone may lie beside the nominal. */
  zoneOffset?: boolean;
  /** Which line of its feature counts may be chosen, and its zone projected. */
  axis?: boolean;
  /** Which size of it counts may be chosen. */
  sizes?: boolean;
}

const dimension = { limits: "deviations", unit: "mm", datums: false, filter: false, switches: [] } as const;
const zone = { of: 1, limits: "zone", unit: "mm", datums: false, filter: true, switches: [] } as const;
const place = { ...zone, datums: true, filter: false } as const;
const tangent = { key: "tangentPlane", label: "The tangent plane of a face, not its surface (T)" } as const;
const direction = {
  key: "orientationOnly",
  label: "The datums hold the direction alone (><): places count among themselves",
} as const;
const aligned = {
  key: "asAligned",
  label: "Motions that no datum holds stay as aligned (else they make the value least)",
} as const;
const oriented = { ...zone, datums: true, material: true, axis: true, switches: [tangent] } as const;

/** Every kind of characteristic; the compiler finds one that is missing. */
export const characteristicKinds: { readonly [K in CharacteristicKind]: Kind<K> } = {
  diameter: { ...dimension, name: "Diameter", of: 1, sizes: true },
  radius: { ...dimension, name: "Radius", of: 1 },
  width: {
    ...dimension,
    name: "Width",
    of: 2,
    switches: [
      {
        key: "globalSize",
        label: "Global size of the fitted planes (GG), not the two-point sizes (LP) of ISO 14405-1",
      },
    ],
  },
  distance: { ...dimension, name: "Distance", of: 2 },
  angle: { ...dimension, name: "Angle", of: 2, unit: "°" },
  "cone-angle": { ...dimension, name: "Cone angle", of: 1, unit: "°" },
  straightness: {
    ...zone,
    name: "Straightness",
    switches: [{ key: "lines", label: "Of the surface's lines along the axis, not of the axis itself" }],
  },
  flatness: { ...zone, name: "Flatness" },
  roundness: { ...zone, name: "Roundness" },
  cylindricity: { ...zone, name: "Cylindricity" },
  parallelism: { ...oriented, name: "Parallelism" },
  perpendicularity: { ...oriented, name: "Perpendicularity" },
  angularity: { ...oriented, name: "Angularity" },
  position: {
    ...place,
    name: "Position",
    of: "many",
    switches: [direction, aligned],
    material: true,
    boundary: true,
    axis: true,
  },
  coaxiality: { ...place, name: "Coaxiality or concentricity", material: true, axis: true },
  symmetry: { ...place, name: "Symmetry", of: "pair", material: true, axis: true },
  "circular-run-out": { ...place, name: "Circular run-out" },
  "total-run-out": { ...place, name: "Total run-out" },
  "profile-of-a-line": { ...place, name: "Profile of a line", of: "cut", zoneOffset: true },
  "profile-of-a-surface": {
    ...place,
    name: "Profile of a surface",
    of: "faces",
    zoneOffset: true,
    switches: [aligned, { key: "freeOffset", label: "The zone may lie at any one offset from the nominal (OZ)" }],
  },
  "radius-in-a-section": { ...dimension, name: "Radius in a section", of: "part" },
  "diameter-in-a-section": { ...dimension, name: "Diameter in a section", of: "part" },
  "distance-in-a-section": { ...dimension, name: "Distance in a section", of: "parts" },
  "greatest-distance-in-a-section": { ...dimension, name: "Greatest distance in a section", of: "parts" },
  "least-distance-in-a-section": { ...dimension, name: "Least distance in a section", of: "parts" },
  "angle-in-a-section": { ...dimension, name: "Angle in a section", of: "parts", unit: "°" },
};

/** Which size of a round feature counts, in the words of ISO 14405-1. */
export const sizeKinds = {
  global: { name: "Global, of the fitted feature (GG, GX, GN)" },
  "two-point": { name: "Two-point sizes (LP)" },
  envelope: { name: "Envelope requirement (E)" },
} as const;

export const axisKinds = {
  extracted: { name: "Extracted median line" },
  straight: { name: "Straight axis of the fit" },
} as const;

export const axisOf = (straight: boolean | null | undefined): keyof typeof axisKinds | "standard" =>
  straight == null ? "standard" : straight ? "straight" : "extracted";

/** The standards a drawing is read by, and what each answers where a row does not say. */
export const standards = {
  iso: {
    name: "ISO GPS (ISO 8015, ISO 1101)",
    size: { standard: { name: "By the standard: global (GG)" } },
    axis: { standard: { name: "By the standard: extracted" } },
  },
  asme: {
    name: "ASME Y14.5-2018",
    size: { standard: { name: "By the standard: envelope (Rule #1)" } },
    axis: { standard: { name: "By the standard: straight" } },
  },
} as const satisfies Record<NonNullable<InspectionPlan["standard"]>, unknown>;

export const materialLimits = {
  none: { name: "regardless of size" },
  maximum: { name: "maximum material (M)" },
  least: { name: "least material (L)" },
} as const;

/** Kinds that take the same may take each other's place. */
const takes = (k: Pick<Kind, "of" | "limits" | "unit">) =>
  [
    typeof k.of === "number" || k.of === "pair" || k.of === "many" ? (k.of === 2 ? 2 : 1) : k.of,
    k.limits,
    k.unit,
  ].join();

/** The kinds that can be asked of the same things instead. */
export const kindsLike = (kind: CharacteristicKind): CharacteristicKind[] =>
  (Object.keys(characteristicKinds) as CharacteristicKind[]).filter((k) => takes(kindOf(k)) === takes(kindOf(kind)));

/** The limits of size of a feature, by a diameter that the plan asks of it: least and greatest; null: it asks none. */
export function sizeLimits(plan: InspectionPlan, feature: string): [number, number] | null {
  const row = (plan.characteristics ?? []).find((c) => c.kind === "diameter" && c.features?.[0] === feature);
  return row?.kind === "diameter" && row.nominal != null && row.lower != null && row.upper != null
    ? ([row.nominal + row.lower, row.nominal + row.upper].map((v) => Number(v.toFixed(9))) as [number, number])
    : null;
}

/** A kind without its own type, for forms that show any. */
export const kindOf = (kind: CharacteristicKind) =>
  characteristicKinds[kind] as unknown as Omit<Kind, "switches"> & { switches: { key: string; label: string }[] };

/** A field of a characteristic by its name, as its kind lists it. */
export const valueOf = (c: CharacteristicPlan, key: string): unknown => (c as unknown as Record<string, unknown>)[key];

export const featuresOf = (c: CharacteristicPlan): string[] => ("features" in c ? (c.features ?? []) : []);

export const datumsOf = (c: CharacteristicPlan): string[] => ("datums" in c ? (c.datums ?? []) : []);

/** Faces of the nominal it refers to itself or through its features. */
export const facesOf = (c: CharacteristicPlan, features: readonly { id: string; faces: number[] }[]): number[] =>
  c.kind === "profile-of-a-surface" || c.kind === "profile-of-a-line"
    ? (c.faces ?? [])
    : featuresOf(c).flatMap((id) => features.find((f) => f.id === id)?.faces ?? []);

/** The same with some fields changed. */
export const changed = (c: CharacteristicPlan, change: Record<string, unknown>): CharacteristicPlan =>
  ({ ...c, ...change }) as CharacteristicPlan;
