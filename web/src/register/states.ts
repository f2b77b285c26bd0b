import type { Schemas } from "../api/client";
import { moment } from "../ui/format";

type Report = Pick<
  Schemas["ReportView"],
  | "withdrawnAt"
  | "withdrawnBy"
  | "withdrawnWhy"
  | "supersededBy"
  | "countersignedAt"
  | "countersignedBy"
  | "needsCountersignature"
>;

/** Where a report stands, in a word and in a sentence. */
export function stateOf(r: Report): { name: string; says: string } {
  if (r.withdrawnAt) {
    return {
      name: `withdrawn: ${r.withdrawnWhy}`,
      says: `Withdrawn by ${r.withdrawnBy}, ${moment(r.withdrawnAt)}: ${r.withdrawnWhy}`,
    };
  }

  if (r.supersededBy) {
    return { name: `superseded by ${r.supersededBy}`, says: `${r.supersededBy} took its place.` };
  }

  if (r.countersignedAt) {
    return { name: "countersigned", says: `Countersigned by ${r.countersignedBy}, ${moment(r.countersignedAt)}.` };
  }

  return r.needsCountersignature
    ? { name: "awaits a countersignature", says: "It holds only once somebody else has countersigned it." }
    : { name: "issued", says: "" };
}
