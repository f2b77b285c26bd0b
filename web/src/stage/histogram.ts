/** Area-weighted histogram and shares of deviations; no data is left out of both. */
export interface Histogram {
  low: number;
  high: number;
  bins: number[];
  /** Total area with data. */
  area: number;
}

export function histogram(
  values: Float32Array,
  areas: Float32Array | null,
  low: number,
  high: number,
  count: number,
): Histogram {
  const bins = new Array<number>(count).fill(0);
  let area = 0;
  for (let i = 0; i < values.length; i++) {
    const v = values[i];
    if (Number.isNaN(v)) {
      continue;
    }

    const w = areas ? areas[i] : 1;
    area += w;
    const bin = Math.floor(((v - low) / (high - low)) * count);
    bins[Math.max(0, Math.min(count - 1, bin))] += w;
  }

  return { low, high, bins, area };
}

/** Share of the area within limits, both included. */
export function within(values: Float32Array, areas: Float32Array | null, lower: number, upper: number): number {
  let area = 0;
  let inside = 0;
  for (let i = 0; i < values.length; i++) {
    const v = values[i];
    if (Number.isNaN(v)) {
      continue;
    }

    const w = areas ? areas[i] : 1;
    area += w;
    inside += v >= lower && v <= upper ? w : 0;
  }

  return area > 0 ? inside / area : 0;
}
