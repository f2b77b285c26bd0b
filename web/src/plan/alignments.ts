import type { AlignPlan, InspectionPlan } from "../api/client";

/** What the plan's own alignment is called beside others. */
export const ownAlignment = "the plan's own";

/** Names of the alignments beside the plan's own. */
export const alignmentNames = (plan: InspectionPlan): string[] => (plan.alignments ?? []).map((a) => a.name);

/** How the part is held under an alignment of the plan; null: its own. Undefined where the plan does not say. */
export const alignOf = (plan: InspectionPlan, name: string | null): AlignPlan | undefined =>
  name === null ? plan.align : plan.alignments?.find((a) => a.name === name)?.align;

/** The plan with another way of holding the part under one of its alignments. */
export const held = (plan: InspectionPlan, name: string | null, align: AlignPlan): InspectionPlan =>
  name === null
    ? { ...plan, align }
    : { ...plan, alignments: plan.alignments?.map((a) => (a.name === name ? { ...a, align } : a)) };

/** A name that no alignment of the plan has yet. */
export function freeName(plan: InspectionPlan): string {
  const taken = alignmentNames(plan);
  let n = taken.length + 1;
  while (taken.includes(`alignment ${n}`)) {
    n++;
  }

  return `alignment ${n}`;
}

/** What stands in an alignment, as people call it. */
export const standingIn = (plan: InspectionPlan, name: string): string[] => [
  ...(plan.compare?.alignment === name ? ["the map"] : []),
  ...[...(plan.features ?? []), ...(plan.constructions ?? [])].filter((f) => f.alignment === name).map((f) => f.name),
  ...(plan.characteristics ?? []).filter((c) => c.alignment === name).map((c) => `characteristic ${c.no}`),
];

/** An alignment under another name, and all that stands in it with it. */
export function renamed(plan: InspectionPlan, name: string, to: string): InspectionPlan {
  const follow = <T extends { alignment?: string | null }>(of: T): T =>
    of.alignment === name ? { ...of, alignment: to } : of;
  return {
    ...plan,
    alignments: plan.alignments?.map((a) => (a.name === name ? { ...a, name: to } : a)),
    compare: plan.compare && follow(plan.compare),
    features: plan.features?.map(follow),
    constructions: plan.constructions?.map(follow),
    characteristics: plan.characteristics?.map(follow),
  };
}

/** The plan without an alignment; nothing may stand in it. */
export const without = (plan: InspectionPlan, name: string): InspectionPlan => ({
  ...plan,
  alignments: plan.alignments?.filter((a) => a.name !== name),
});
