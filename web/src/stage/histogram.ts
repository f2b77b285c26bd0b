/** Area-weighted histogram and shares of a map's values; no data, and where nothing was asked, is left out of both. */
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
    if (!Number.isFinite(v)) {
      continue;
    }

    const w = areas ? areas[i] : 1;
    area += w;
    const bin = Math.floor(((v - low) / (high - low)) * count);
    bins[Math.max(0, Math.min(count - 1, bin))] += w;
  }

  return { low, high, bins, area };
}

/** Area within limits, both included, and all area with data. */
export function areaWithin(
  values: Float32Array,
  areas: Float32Array | null,
  lower: number,
  upper: number,
): { inside: number; area: number } {
  let area = 0;
  let inside = 0;
  for (let i = 0; i < values.length; i++) {
    const v = values[i];
    if (!Number.isFinite(v)) {
      continue;
    }

    const w = areas ? areas[i] : 1;
    area += w;
    inside += v >= lower && v <= upper ? w : 0;
  }

  return { inside, area };
}

/** Share of the area within limits. */
export function within(values: Float32Array, areas: Float32Array | null, lower: number, upper: number): number {
  const { inside, area } = areaWithin(values, areas, lower, upper);
  return area > 0 ? inside / area : 0;
}

/** From where to where all but one in a thousand of the values lie; null without any. */
export function spanOf(values: Float32Array): [number, number] | null {
  const sample: number[] = [];
  const step = Math.max(1, Math.floor(values.length / 20000));
  for (let i = 0; i < values.length; i += step) {
    if (Number.isFinite(values[i])) {
      sample.push(values[i]);
    }
  }

  sample.sort((a, b) => a - b);
  const at = (share: number) => sample[Math.round(share * (sample.length - 1))];
  return sample.length > 0 ? [at(0.0005), at(0.9995)] : null;
}
