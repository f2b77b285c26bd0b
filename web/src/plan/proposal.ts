import type { CharacteristicPlan, InspectionPlan, Schemas } from "../api/client";
import { datumsOf, featuresOf } from "./characteristics";

export type PlanProposal = Schemas["PlanProposal"];

/**
 * The plan with some of what its nominal proposes: their features and datums come with them, no others. Numbers of a drawing stay;
 * others follow on those of the plan.
 */
export function withProposed(
  plan: InspectionPlan,
  proposal: PlanProposal,
  rows: readonly CharacteristicPlan[],
  ofDrawing = false,
): InspectionPlan {
  const letters = new Set(rows.flatMap(datumsOf));
  const datums = proposal.datums.filter((d) => letters.has(d.label));
  const ids = new Set([...rows.flatMap(featuresOf), ...datums.flatMap((d) => d.features)]);
  const first = 1 + Math.max(0, ...(plan.characteristics ?? []).map((c) => c.no));
  return {
    ...plan,
    features: [...(plan.features ?? []), ...proposal.features.filter((f) => ids.has(f.id))],
    datums: [...(plan.datums ?? []), ...datums],
    characteristics: [
      ...(plan.characteristics ?? []),
      ...rows.map((c, i) => (ofDrawing ? c : { ...c, no: first + i })),
    ],
  };
}
