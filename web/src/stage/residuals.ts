/** Colours of residuals, other than those of deviations: below the fitted feature, on it, above it. Safe for colour-blind readers. */
export const residualStops = [
  [0x6a, 0x2a, 0x83],
  [0xf4, 0xee, 0xdd],
  [0x1b, 0x6f, 0x3c],
] as const;

const SHARE = 0.98;

/** The size of residual that has the full colour: all but the largest 2 % are smaller. */
export function residualScale(residuals: readonly number[]): number {
  const sizes = residuals.map(Math.abs).sort((a, b) => a - b);
  return Math.max(1e-6, sizes[Math.min(sizes.length - 1, Math.floor(SHARE * sizes.length))] ?? 0);
}

/** CSS colour of a residual on a scale. */
export function residualColor(residual: number, scale: number): string {
  const t = Math.max(-1, Math.min(1, residual / scale));
  const [from, to] = [residualStops[1], t < 0 ? residualStops[0] : residualStops[2]];
  return `rgb(${from.map((v, k) => Math.round(v + Math.abs(t) * (to[k] - v))).join(",")})`;
}
