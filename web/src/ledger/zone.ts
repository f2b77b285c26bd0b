import type { CharacteristicResult } from "../api/client";

/** A measured value inside its tolerance zone, all in shares of the bar's width. */
export interface Zone {
  low: number;
  high: number;
  value: number;
  errorLow: number;
  errorHigh: number;
  guardLow: number | null;
  guardHigh: number | null;
}

/**
 * The guard bands are as wide as the decision rule has them, nothing under simple acceptance. The bar shows the zone in
 * its middle half (or, for one-sided limits, from its left edge), clamped at both ends.
 */
export function zone(
  c: Pick<CharacteristicResult, "lowerLimit" | "upperLimit" | "measured" | "uncertainty">,
  guardFactor: number,
): Zone | null {
  if (c.measured === null || c.upperLimit === null) {
    return null;
  }

  const oneSided = c.lowerLimit === null;
  const low = c.lowerLimit ?? 0;
  const width = Math.max(1e-9, c.upperLimit - low);
  const at = (v: number) => {
    const t = (v - low) / width;
    return Math.max(0, Math.min(1, oneSided ? t * 0.7 : 0.2 + 0.6 * t));
  };
  const u = c.uncertainty ?? 0;
  return {
    low: at(low),
    high: at(c.upperLimit),
    value: at(c.measured),
    errorLow: at(c.measured - u),
    errorHigh: at(c.measured + u),
    guardLow: oneSided ? null : at(low + guardFactor * u),
    guardHigh: at(c.upperLimit - guardFactor * u),
  };
}
