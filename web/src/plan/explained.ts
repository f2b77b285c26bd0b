import type { InspectionPlan, MapPlan, Schemas } from "../api/client";
import { newMap } from "./maps";

export type ExplainedPart = Schemas["ExplainedPart"];

/** What of a deviation is explained together, in the order in which it is taken out. */
export const explainedParts: Record<ExplainedPart, string> = {
  pose: "Shift and turn",
  size: "Shrinkage or growth",
  bend: "Bend and twist",
  faces: "Errors of single faces",
};

export const partOrder = Object.keys(explainedParts) as ExplainedPart[];

/** What is taken out until something else is chosen: all that the whole part shares. */
export const usualParts: readonly ExplainedPart[] = ["pose", "size", "bend"];

/** The same parts with one more, or one less, in their order. */
export const toggled = (parts: readonly ExplainedPart[], part: ExplainedPart): ExplainedPart[] =>
  partOrder.filter((p) => (p === part ? !parts.includes(p) : parts.includes(p)));

/** The plan's map of what is left without some parts; a new one when it has none. */
export function mapOfRest(plan: InspectionPlan, without: readonly ExplainedPart[]): { map: MapPlan; isNew: boolean } {
  const wanted = without.join();
  const known = plan.compare?.maps?.find((m) => m.kind === "remaining" && (m.without ?? []).join() === wanted);
  return known
    ? { map: known, isNew: false }
    : { map: { ...newMap("remaining", plan, [], ""), without: [...without] } as MapPlan, isNew: true };
}
