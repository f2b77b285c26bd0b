import type { Asked, CharacteristicPlan, CharacteristicResult, PlanView, Verdict } from "../api/client";
import { characteristicKinds, datumsOf } from "../plan/characteristics";
import { verdictWord } from "../ui/VerdictMark";
import { holdsWords } from "./table";

/** A characteristic of the plan with what was measured of it, if it was. */
export interface Row {
  plan: CharacteristicPlan;
  /** Its limits as the report writes them. */
  asked: Asked;
  result: CharacteristicResult | null;
  /** The plan asks for something else than what was measured. */
  changed: boolean;
}

/** Another reasonable way of finding the number gives another verdict. */
export const restsOnChoice = (row: Row): boolean => !row.changed && (row.result?.firmness?.others.length ?? 0) > 0;

/** What those ways are. */
export function choiceSaid({ result }: Row): string {
  const { others = [], tried = 0 } = result?.firmness ?? {};
  return others.length === 0
    ? ""
    : `${others.length} of ${tried} other ways give another verdict: ${others
        .map((o) => `${o.what} (${verdictWord[o.verdict]})`)
        .join(", ")}`;
}

export type SortKey = "no" | "name" | "verdict" | "deviation";

const severity: Record<Verdict, number> = { "non-conforming": 0, "not-proven": 1, "not-measured": 2, conforming: 3 };

export const verdicts = Object.keys(severity) as Verdict[];

/** A row that was changed since has no verdict. */
export const verdictOf = (row: Row): Verdict => (row.changed ? null : row.result?.verdict) ?? "not-measured";

/** The plan's characteristics with their results; what is no longer in the plan is left out. */
export function rowsOf(
  { plan, asked }: Pick<PlanView, "plan" | "asked">,
  results: readonly CharacteristicResult[],
): Row[] {
  const byNumber = new Map(results.map((r) => [r.plan.no, r]));
  return (plan.characteristics ?? []).map((c, i) => {
    const result = byNumber.get(c.no) ?? null;
    return { plan: c, asked: asked[i], result, changed: result !== null && !asksAlike(result.plan, c) };
  });
}

/** Whether two ask the same, whatever they are called. */
const asksAlike = (a: CharacteristicPlan, b: CharacteristicPlan) =>
  JSON.stringify({ ...a, name: "" }) === JSON.stringify({ ...b, name: "" });

/** Of how much of its tolerance a value uses, for sorting the worst first. */
const used = ({ result: r }: Row): number => {
  if (r?.measured == null || r.upperLimit === null) {
    return -1;
  }

  const [low, high] = [r.lowerLimit ?? 0, r.upperLimit];
  return (
    Math.abs(r.measured - (r.lowerLimit === null ? 0 : (low + high) / 2)) /
    (r.lowerLimit === null ? high : (high - low) / 2)
  );
};

export function sorted(rows: readonly Row[], by: SortKey): Row[] {
  const order: Record<SortKey, (a: Row, b: Row) => number> = {
    no: (a, b) => a.plan.no - b.plan.no,
    name: (a, b) => a.plan.name.localeCompare(b.plan.name),
    verdict: (a, b) => severity[verdictOf(a)] - severity[verdictOf(b)] || a.plan.no - b.plan.no,
    deviation: (a, b) => used(b) - used(a) || a.plan.no - b.plan.no,
  };
  return [...rows].sort(order[by]);
}

/** Rows whose number, name, kind or datums hold every word that is typed. */
export const rowsWith = (rows: readonly Row[], typed: string): Row[] =>
  rows.filter(({ plan }) =>
    holdsWords(`${plan.no} ${plan.name} ${characteristicKinds[plan.kind].name} ${datumsOf(plan).join("|")}`, typed),
  );

/** All of the rows as a table, below a row of names; values with all their digits. */
export const characteristicTable = (rows: readonly Row[]): (string | number)[][] => [
  [
    ["no.", "characteristic", "kind", "datums", "unit", "nominal", "lower limit", "upper limit"],
    ["measured", "deviation", "U", "beyond", "verdict", "remark", "other ways"],
  ].flat(),
  ...rows.map((row) => {
    const { plan, result, asked, changed } = row;
    const now = changed ? null : result;
    return [
      plan.no,
      plan.name,
      characteristicKinds[plan.kind].name,
      datumsOf(plan).join("|"),
      asked.unit,
      asked.limits.nominal ?? "",
      asked.limits.lower ?? "",
      asked.limits.upper ?? "",
      now?.measured ?? "",
      asked.limits.nominal === null ? "" : (now?.deviation ?? ""),
      now?.uncertainty ?? "",
      now?.beyond ?? "",
      verdictOf(row),
      now?.remark ?? "",
      changed ? "" : choiceSaid(row),
    ];
  }),
];
