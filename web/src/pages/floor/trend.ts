import type { Schemas } from "../../api/client";

type Row = Schemas["TrendRow"];

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
