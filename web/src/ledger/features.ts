import type { InspectionPlan, MeasuredFeature } from "../api/client";
import { planFeatures, type PlanFeature } from "../plan/features";
import { beside, mainNumber } from "../stations/features/describe";
import { holdsWords } from "./table";

/** A feature of the plan with what was measured of it, if it was. */
export interface FeatureRow {
  feature: PlanFeature;
  result: MeasuredFeature | null;
  /** Its size, where it has one. */
  size: { sign: string; nominal: number; value: number; u: number } | null;
  /** How far it lies from the nominal's place, mm: of a plane along its normal with its sign. */
  off: number | null;
}

export type FeatureKey = "order" | "name" | "kind" | "deviation" | "off" | "points" | "coverage";

export function featureRows(plan: InspectionPlan, results: readonly MeasuredFeature[]): FeatureRow[] {
  const byId = new Map(results.map((r) => [r.plan.id, r]));
  return planFeatures(plan).map((feature) => {
    const found = byId.get(feature.id) ?? null;
    const result = found && !found.failure ? found : null;
    return {
      feature,
      result: found,
      size: result ? mainNumber(result) : null,
      off: result ? placeOff(result) : null,
    };
  });
}

/** How far the measured place is off the nominal one. */
export function placeOff({ kind, nominal, measured }: Pick<MeasuredFeature, "kind" | "nominal" | "measured">): number {
  const from = kind === "plane" ? nominal : beside(kind, nominal, measured);
  const d = [0, 1, 2].map((k) => measured[k] - from[k]);
  return kind === "plane" ? d.reduce((sum, v, k) => sum + v * nominal[3 + k], 0) : Math.hypot(...d);
}

export const sortedFeatures = (rows: readonly FeatureRow[], by: FeatureKey): FeatureRow[] => {
  const least = (v: number | null | undefined) => v ?? Number.POSITIVE_INFINITY;
  const most = (v: number | null | undefined) => -(v ?? Number.NEGATIVE_INFINITY);
  const number: Partial<Record<FeatureKey, (r: FeatureRow) => number>> = {
    // The worst stand first.
    deviation: (r) => most(r.size && Math.abs(r.size.value - r.size.nominal)),
    off: (r) => most(r.off === null ? null : Math.abs(r.off)),
    points: (r) => least(r.result?.used),
    coverage: (r) => least(r.result?.coverage),
  };
  const text: Partial<Record<FeatureKey, (r: FeatureRow) => string>> = {
    name: (r) => r.feature.name,
    kind: (r) => r.result?.kind ?? "",
  };
  const [n, t] = [number[by], text[by]];
  const collator = new Intl.Collator(undefined, { numeric: true });
  return n
    ? [...rows].sort((a, b) => n(a) - n(b))
    : t
      ? [...rows].sort((a, b) => collator.compare(t(a), t(b)))
      : [...rows];
};

/** Rows whose name or kind holds every word that is typed. */
export const withWords = (rows: readonly FeatureRow[], typed: string): FeatureRow[] =>
  rows.filter((r) => holdsWords(`${r.feature.name} ${r.result?.kind ?? ""}`, typed));

const columns = [
  ["feature", "kind", "nominal mm", "measured mm", "deviation mm", "U mm", "off its place mm", "U of the place mm"],
  ["x", "y", "z", "i", "j", "k", "points", "coverage", "alignment", "remark"],
].flat();

/** Everything measured, a feature a row, below a row of names. */
export const featureTable = (rows: readonly FeatureRow[]): (string | number)[][] => [
  columns,
  ...rows.map(({ feature, result, size, off }) => {
    if (!result || result.failure) {
      return [feature.name, ...columns.slice(2).map(() => ""), result?.failure ?? "not measured"];
    }

    const directed = result.measured.length > 5;
    return [
      feature.name,
      result.kind,
      ...(size ? [size.nominal, size.value, size.value - size.nominal, size.u] : ["", "", "", ""]),
      off ?? "",
      2 * result.positionSigma,
      ...result.measured.slice(0, 3),
      ...(directed ? result.measured.slice(3, 6) : ["", "", ""]),
      result.used,
      result.coverage,
      feature.alignment ?? "",
      feature.construction ? "constructed" : feature.measured?.edgeOf != null ? "edge" : "",
    ];
  }),
];
