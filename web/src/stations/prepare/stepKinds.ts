import type { PrepareStep, SelectionTerm } from "../../api/client";
import { count, fixed } from "../../ui/format";

export type StepName = PrepareStep["kind"];
type StepOf<K extends StepName> = Extract<PrepareStep, { kind: K }>;

/** The names of a step's fields that hold values of a type. */
type KeysOf<S, V> = {
  [K in keyof S]-?: NonNullable<S[K]> extends V ? (V extends NonNullable<S[K]> ? K : never) : never;
}[keyof S] &
  string;

export interface StepField<Key extends string = string> {
  key: Key;
  label: string;
  hint?: string;
  optional?: boolean;
}

export interface StepKind<K extends StepName = StepName> {
  name: string;
  about: string;
  group: "Pieces" | "Selection" | "Surface" | "Repair" | "Cloud";
  fields: StepField<KeysOf<StepOf<K>, number>>[];
  switches?: { key: Exclude<KeysOf<StepOf<K>, boolean>, "off">; label: string; hint?: string }[];
  /** Acts on a selection; "may" act on everything without one. */
  selection?: "needs" | "may";
  start: Partial<StepOf<K>>;
}

const curved = { key: "curved" as const, label: "Follow the curvature around" };

/** Every kind of step; the compiler finds one that is missing. */
export const stepKinds: { readonly [K in StepName]: StepKind<K> } = {
  "keep-part": {
    name: "Keep only the part",
    about: "Drops every connected piece but the one whose area is nearest to the nominal's.",
    group: "Pieces",
    fields: [],
    start: {},
  },
  "keep-largest": {
    name: "Keep only the largest piece",
    about: "Drops every connected piece but the one of most area.",
    group: "Pieces",
    fields: [],
    start: {},
  },
  "drop-pieces": {
    name: "Drop small pieces",
    about: "Drops connected pieces below a number of triangles or an area.",
    group: "Pieces",
    fields: [
      { key: "triangles", label: "Fewer triangles than", optional: true },
      { key: "area", label: "Less area than, mm²", optional: true },
    ],
    start: { triangles: 500 },
  },
  drop: {
    name: "Drop the selection",
    about: "Takes the selected triangles out.",
    group: "Selection",
    fields: [],
    selection: "needs",
    start: {},
  },
  refill: {
    name: "Refill the selection",
    about: "Cuts the selection out and closes it from its surroundings. The patch counts as not measured.",
    group: "Selection",
    fields: [],
    switches: [curved],
    selection: "needs",
    start: { curved: true },
  },
  smooth: {
    name: "Smooth",
    about: "Takes noise out without shrinking. No point is moved farther than the limit; borders stay.",
    group: "Selection",
    fields: [
      { key: "passes", label: "Passes" },
      { key: "maxDisplacement", label: "No point farther than, mm" },
    ],
    selection: "may",
    start: { passes: 10, maxDisplacement: 0.02 },
  },
  fill: {
    name: "Fill holes",
    about: "Closes holes up to a size. Patches count as not measured: they enter no fit and no statistic.",
    group: "Surface",
    fields: [{ key: "maxDiameter", label: "Holes up to, mm across" }],
    switches: [curved],
    start: { maxDiameter: 5, curved: true },
  },
  reduce: {
    name: "Reduce triangles",
    about: "Fewer triangles with edges and curvature kept. The reached deviation is measured and stated.",
    group: "Surface",
    fields: [
      { key: "share", label: "Share to keep", hint: "0.25 keeps a quarter.", optional: true },
      { key: "maxDeviation", label: "Or as far as this deviation allows, mm", optional: true },
    ],
    start: { share: 0.5 },
  },
  spikes: {
    name: "Remove spikes",
    about: "Single points that stand out from their neighbours by more than so many times the noise.",
    group: "Surface",
    fields: [{ key: "sigmas", label: "Times the noise" }],
    start: { sigmas: 8 },
  },
  clean: {
    name: "Remove useless triangles",
    about: "Triangles without area, and those that are there twice.",
    group: "Repair",
    fields: [],
    start: {},
  },
  orient: {
    name: "Orient triangles alike",
    about: "Turns the triangles of each piece to one sense, outward where it is closed.",
    group: "Repair",
    fields: [],
    start: {},
  },
  flip: {
    name: "Turn inside out",
    about: "Turns every triangle over.",
    group: "Repair",
    fields: [],
    start: {},
  },
  split: {
    name: "Split branching edges",
    about: "Takes edges of three triangles and more apart. No point is moved.",
    group: "Repair",
    fields: [],
    start: {},
  },
  thin: {
    name: "Thin the cloud",
    about: "Keeps points at an even spacing.",
    group: "Cloud",
    fields: [{ key: "spacing", label: "Spacing, mm" }],
    start: { spacing: 0.5 },
  },
  mesh: {
    name: "Mesh the cloud",
    about: "Rolls a ball over the points. Every vertex is a measured point; holes stay open.",
    group: "Cloud",
    fields: [{ key: "radius", label: "Radius of the ball, mm", hint: "From the spacing when empty.", optional: true }],
    start: {},
  },
};

export const stepNames = Object.keys(stepKinds) as StepName[];

/** A kind without its own type, for forms that show any. */
export const kindOf = (kind: StepName) => stepKinds[kind] as unknown as StepKind & { fields: StepField[] };

/** A new step as its kind begins. */
export const newStep = (kind: StepName) => ({ kind, ...stepKinds[kind].start }) as PrepareStep;

/** A field of a step by its name, as its kind lists it. */
export const valueOf = (step: PrepareStep, key: string): unknown => (step as unknown as Record<string, unknown>)[key];

/** What a step acts on; nothing for kinds that take no selection. */
export const selectionOf = (step: PrepareStep): SelectionTerm[] => ("selection" in step ? (step.selection ?? []) : []);

/** Whether a step has everything its kind needs. */
export function isComplete(step: PrepareStep): boolean {
  const kind = kindOf(step.kind);
  const given = (key: string) => Number(valueOf(step, key) ?? 0) > 0;
  const optional = kind.fields.filter((f) => f.optional);
  return (
    kind.fields.every((f) => f.optional || given(f.key)) &&
    (optional.length === 0 || step.kind === "mesh" || optional.some((f) => given(f.key))) &&
    (kind.selection !== "needs" || selectionOf(step).length > 0)
  );
}

/** One term of a selection in words. */
export function termWords(term: SelectionTerm): string {
  const verb = "op" in term && term.op === "take" ? "without" : "with";
  switch (term.kind) {
    case "lasso":
      return `${verb} an outline${term.through ? ", through the part" : ""}`;
    case "brush":
      return `${verb} a stroke of ${fixed(term.radius, 1)} mm`;
    case "grow":
      return `${verb} what turns less than ${fixed(term.angleDegrees, 1)}°`;
    case "surface":
      return `${verb} one surface`;
    case "piece":
      return `${verb} a connected piece`;
    case "side":
      return `${verb} one side of a plane`;
    case "beyond":
      return `${verb} what is over ${fixed(term.distance, 1)} mm from the nominal`;
    case "pieces":
      return term.triangles
        ? `${verb} pieces under ${count(term.triangles)} triangles`
        : `${verb} pieces under ${fixed(term.area, 0)} mm²`;
    case "loose":
      return `${verb} all loose pieces`;
    case "widen":
      return `wider by ${term.rows} rows`;
    case "narrow":
      return `narrower by ${term.rows} rows`;
    case "invert":
      return "the rest instead";
    case "all":
      return "everything";
  }
}

/** Where a new step goes: a cloud is meshed before anything that needs triangles, all else comes last. */
export const withStep = (steps: readonly PrepareStep[], step: PrepareStep): PrepareStep[] =>
  step.kind === "mesh" ? [step, ...steps] : [...steps, step];
