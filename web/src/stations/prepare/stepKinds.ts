import type { PrepareStep, SelectionTerm } from "../../api/client";
import { count, fixed } from "../../ui/format";

export interface StepField {
  key:
    | "triangles"
    | "area"
    | "share"
    | "maxDeviation"
    | "maxDiameter"
    | "passes"
    | "maxDisplacement"
    | "sigmas"
    | "spacing"
    | "radius";
  label: string;
  hint?: string;
  optional?: boolean;
}

export interface StepKind {
  kind: string;
  name: string;
  about: string;
  group: "Pieces" | "Selection" | "Surface" | "Repair" | "Cloud";
  fields: StepField[];
  switches?: { key: "curved"; label: string; hint?: string }[];
  /** Acts on a selection; "may" act on everything without one. */
  selection?: "needs" | "may";
  start: Partial<PrepareStep>;
}

const curved = { key: "curved" as const, label: "Follow the curvature around" };

export const stepKinds: readonly StepKind[] = [
  {
    kind: "keep-part",
    name: "Keep only the part",
    about: "Drops every connected piece but the one whose area is nearest to the nominal's.",
    group: "Pieces",
    fields: [],
    start: {},
  },
  {
    kind: "keep-largest",
    name: "Keep only the largest piece",
    about: "Drops every connected piece but the one of most area.",
    group: "Pieces",
    fields: [],
    start: {},
  },
  {
    kind: "drop-pieces",
    name: "Drop small pieces",
    about: "Drops connected pieces below a number of triangles or an area.",
    group: "Pieces",
    fields: [
      { key: "triangles", label: "Fewer triangles than", optional: true },
      { key: "area", label: "Less area than, mm²", optional: true },
    ],
    start: { triangles: 500 },
  },
  {
    kind: "drop",
    name: "Drop the selection",
    about: "Takes the selected triangles out.",
    group: "Selection",
    fields: [],
    selection: "needs",
    start: {},
  },
  {
    kind: "refill",
    name: "Refill the selection",
    about: "Cuts the selection out and closes it from its surroundings. The patch counts as not measured.",
    group: "Selection",
    fields: [],
    switches: [curved],
    selection: "needs",
    start: { curved: true },
  },
  {
    kind: "smooth",
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
  {
    kind: "fill",
    name: "Fill holes",
    about: "Closes holes up to a size. Patches count as not measured: they enter no fit and no statistic.",
    group: "Surface",
    fields: [{ key: "maxDiameter", label: "Holes up to, mm across" }],
    switches: [curved],
    start: { maxDiameter: 5, curved: true },
  },
  {
    kind: "reduce",
    name: "Reduce triangles",
    about: "Fewer triangles with edges and curvature kept. The reached deviation is measured and stated.",
    group: "Surface",
    fields: [
      { key: "share", label: "Share to keep", hint: "0.25 keeps a quarter.", optional: true },
      { key: "maxDeviation", label: "Or as far as this deviation allows, mm", optional: true },
    ],
    start: { share: 0.5 },
  },
  {
    kind: "spikes",
    name: "Remove spikes",
    about: "Single points that stand out from their neighbours by more than so many times the noise.",
    group: "Surface",
    fields: [{ key: "sigmas", label: "Times the noise" }],
    start: { sigmas: 8 },
  },
  {
    kind: "clean",
    name: "Remove useless triangles",
    about: "Triangles without area, and those that are there twice.",
    group: "Repair",
    fields: [],
    start: {},
  },
  {
    kind: "orient",
    name: "Orient triangles alike",
    about: "Turns the triangles of each piece to one sense, outward where it is closed.",
    group: "Repair",
    fields: [],
    start: {},
  },
  {
    kind: "flip",
    name: "Turn inside out",
    about: "Turns every triangle over.",
    group: "Repair",
    fields: [],
    start: {},
  },
  {
    kind: "split",
    name: "Split branching edges",
    about: "Takes edges of three triangles and more apart. No point is moved.",
    group: "Repair",
    fields: [],
    start: {},
  },
  {
    kind: "thin",
    name: "Thin the cloud",
    about: "Keeps points at an even spacing.",
    group: "Cloud",
    fields: [{ key: "spacing", label: "Spacing, mm" }],
    start: { spacing: 0.5 },
  },
  {
    kind: "mesh",
    name: "Mesh the cloud",
    about: "Rolls a ball over the points. Every vertex is a measured point; holes stay open.",
    group: "Cloud",
    fields: [{ key: "radius", label: "Radius of the ball, mm", hint: "From the spacing when empty.", optional: true }],
    start: {},
  },
];

export const kindOf = (kind: string): StepKind =>
  stepKinds.find((k) => k.kind === kind) ?? { ...stepKinds[0], kind, name: kind };

/** Whether a step has everything its kind needs. */
export function isComplete(step: PrepareStep): boolean {
  const kind = kindOf(step.kind);
  const given = (key: StepField["key"]) => (step[key] ?? 0) > 0;
  const optional = kind.fields.filter((f) => f.optional);
  return (
    kind.fields.every((f) => f.optional || given(f.key)) &&
    (optional.length === 0 || step.kind === "mesh" || optional.some((f) => given(f.key))) &&
    (kind.selection !== "needs" || (step.selection?.length ?? 0) > 0)
  );
}

/** One term of a selection in words. */
export function termWords(term: SelectionTerm): string {
  const verb = term.op === "take" ? "without" : "with";
  switch (term.kind) {
    case "lasso":
      return `${verb} an outline${term.through ? ", through the part" : ""}`;
    case "brush":
      return `${verb} a stroke of ${fixed(term.radius, 1)} mm`;
    case "grow":
      return `${verb} what turns less than ${fixed(term.angle, 1)}°`;
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
    case "narrow":
      return `${term.kind === "widen" ? "wider" : "narrower"} by ${term.rows} rows`;
    case "invert":
      return "the rest instead";
    default:
      return "everything";
  }
}

/** Where a new step goes: a cloud is meshed before anything that needs triangles, all else comes last. */
export const withStep = (steps: readonly PrepareStep[], step: PrepareStep): PrepareStep[] =>
  step.kind === "mesh" ? [step, ...steps] : [...steps, step];
