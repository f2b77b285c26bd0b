import type { InspectionPlan } from "../api/client";
import { fixed, signed } from "./format";

export type ShownUnit = NonNullable<InspectionPlan["shown"]>;

type Value = number | null | undefined;

/** How numbers of a unit are written where a plan shows its lengths in a unit of its own; what is stored stays in mm. */
export interface Writing {
  /** As it stands behind a number. */
  sign: string;
  /** Of the stored unit in one of the shown. */
  per: number;
  fixed: (value: Value, decimals?: number) => string;
  signed: (value: Value, decimals?: number) => string;
}

/** An inch is 25.4 mm exactly; one decimal more tells as much. */
const inch = { sign: "in", per: 25.4, more: 1 };

export function writing(unit: string | null, shown: ShownUnit | undefined): Writing {
  const { sign, per, more } = unit === "mm" && shown === "inch" ? inch : { sign: unit ?? "", per: 1, more: 0 };
  const own = (value: Value) => (value == null ? value : value / per);
  return {
    sign,
    per,
    fixed: (value, decimals = 3) => fixed(own(value), decimals + more),
    signed: (value, decimals = 3) => signed(own(value), decimals + more),
  };
}
