import type { CharacteristicKind, CharacteristicPlan } from "../api/client";

type Of<K extends CharacteristicKind> = Extract<CharacteristicPlan, { kind: K }>;
type Switch<P> = { [K in keyof P]-?: NonNullable<P[K]> extends boolean ? K : never }[keyof P] & string;

/** What a form needs to know of a kind; what it computes is the core's. */
export interface Kind<K extends CharacteristicKind = CharacteristicKind> {
  name: string;
  /** How many features it takes; "faces": faces of the nominal instead; else lines and arcs of a section. */
  of: 1 | 2 | "faces" | "part" | "parts";
  limits: "deviations" | "zone";
  unit: "mm" | "°";
  datums: boolean;
  filter: boolean;
  switches: readonly { key: Switch<Of<K>>; label: string }[];
}

const dimension = { limits: "deviations", unit: "mm", datums: false, filter: false, switches: [] } as const;
const zone = { of: 1, limits: "zone", unit: "mm", datums: false, filter: true, switches: [] } as const;
const straight = {
  key: "straightAxis",
  label: "Straight axis of the fitted cylinder (ASME Y14.5), not its extracted median line (ISO 1101)",
} as const;
const aligned = {
  key: "asAligned",
  label: "Motions that no datum holds stay as aligned (else they make the value least)",
} as const;

/** Every kind of characteristic; the compiler finds one that is missing. */
export const characteristicKinds: { readonly [K in CharacteristicKind]: Kind<K> } = {
  diameter: { ...dimension, name: "Diameter", of: 1, switches: [] },
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
  distance: { ...dimension, name: "Distance", of: 2, switches: [] },
  angle: { ...dimension, name: "Angle", of: 2, unit: "°", switches: [] },
  flatness: { ...zone, name: "Flatness", switches: [] },
  cylindricity: { ...zone, name: "Cylindricity", switches: [] },
  parallelism: { ...zone, name: "Parallelism", datums: true, switches: [straight] },
  perpendicularity: { ...zone, name: "Perpendicularity", datums: true, switches: [straight] },
  position: { ...zone, name: "Position", datums: true, filter: false, switches: [straight, aligned] },
  "profile-of-a-surface": {
    ...zone,
    name: "Profile of a surface",
    of: "faces",
    datums: true,
    filter: false,
    switches: [aligned],
  },
  "radius-in-a-section": { ...dimension, name: "Radius in a section", of: "part" },
  "diameter-in-a-section": { ...dimension, name: "Diameter in a section", of: "part" },
  "distance-in-a-section": { ...dimension, name: "Distance in a section", of: "parts" },
  "angle-in-a-section": { ...dimension, name: "Angle in a section", of: "parts", unit: "°" },
};

/** A kind without its own type, for forms that show any. */
export const kindOf = (kind: CharacteristicKind) =>
  characteristicKinds[kind] as unknown as Omit<Kind, "switches"> & { switches: { key: string; label: string }[] };

/** A field of a characteristic by its name, as its kind lists it. */
export const valueOf = (c: CharacteristicPlan, key: string): unknown => (c as unknown as Record<string, unknown>)[key];

export const featuresOf = (c: CharacteristicPlan): string[] => ("features" in c ? (c.features ?? []) : []);

export const datumsOf = (c: CharacteristicPlan): string[] => ("datums" in c ? (c.datums ?? []) : []);

/** Faces of the nominal it refers to itself or through its features. */
export const facesOf = (c: CharacteristicPlan, features: readonly { id: string; faces: number[] }[]): number[] =>
  c.kind === "profile-of-a-surface"
    ? (c.faces ?? [])
    : featuresOf(c).flatMap((id) => features.find((f) => f.id === id)?.faces ?? []);

/** The same with some fields changed. */
export const changed = (c: CharacteristicPlan, change: Record<string, unknown>): CharacteristicPlan =>
  ({ ...c, ...change }) as CharacteristicPlan;
