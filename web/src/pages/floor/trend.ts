import type { Schemas } from "../../api/client";

type Row = Schemas["TrendRow"];

/** How much of its tolerance a value uses: 0 in the middle, 1 at a limit; of a tolerance with one limit its share. */
export function use(row: Row, measured: number): number | null {
  const { lower, upper } = row;
  if (lower !== null && upper !== null) {
    return upper > lower ? Math.abs(measured - (lower + upper) / 2) / ((upper - lower) / 2) : null;
  }

  return upper !== null && upper > 0 ? measured / upper : null;
}

/** The largest use of its pieces; what has no number comes first, since it needs a look too. */
export const largestUse = (row: Row): number => {
  const uses = row.values.map((v) => (v?.measured == null ? Infinity : (use(row, v.measured) ?? 0)));
  return uses.length === 0 ? 0 : Math.max(...uses);
};

/** Those that need a look first: what moves, then what uses most of its tolerance. */
export const byNeed = (rows: readonly Row[]): Row[] =>
  [...rows].sort(
    (a, b) =>
      Number(b.drift?.standsOut ?? false) - Number(a.drift?.standsOut ?? false) ||
      largestUse(b) - largestUse(a) ||
      a.no - b.no,
  );

/** Range of the values that a small chart shows: the limits always, and whatever lies beyond them. */
export function range(row: Row): [number, number] {
  const seen = row.values.flatMap((v) =>
    v?.measured == null ? [] : [v.measured - (v.uncertainty ?? 0), v.measured + (v.uncertainty ?? 0)],
  );
  const all = [...seen, ...[row.lower ?? (row.upper === null ? null : 0), row.upper].filter((v) => v !== null)];
  const [low, high] = all.length === 0 ? [0, 1] : [Math.min(...all), Math.max(...all)];
  const margin = 0.08 * (high - low || 1);
  return [low - margin, high + margin];
}
