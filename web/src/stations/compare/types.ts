import type { InspectionPlan } from "../../api/client";

/** Changes the plan from what it is by then. */
export type ChangePlan = (
  to: (p: InspectionPlan) => InspectionPlan,
  options?: { onSuccess?: () => void; onSettled?: () => void },
) => void;
