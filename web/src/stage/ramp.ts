/** Stops of the deviation ramp, the same as in the core's DeviationRamp: material missing, on nominal, material in excess. */
export const stops: readonly [number, [number, number, number]][] = [
  [-1, [0x0b, 0x4f, 0x6c]],
  [-0.5, [0x5f, 0xa3, 0xb8]],
  [0, [0xf4, 0xee, 0xdd]],
  [0.5, [0xd9, 0x8e, 0x4a]],
  [1, [0x8f, 0x2d, 0x14]],
];

/** Place of a deviation on the ramp: −1 at the lower limit, +1 at the upper, each side linear. */
export const place = (deviation: number, lower: number, upper: number): number =>
  deviation < 0 ? Math.max(-1, -deviation / Math.min(lower, -1e-9)) : Math.min(1, deviation / Math.max(upper, 1e-9));

/** CSS colour of a deviation. */
export function color(deviation: number, lower: number, upper: number): string {
  const t = place(deviation, lower, upper);
  const i = Math.max(
    1,
    stops.findIndex(([at]) => t <= at),
  );
  const [a, from] = stops[i - 1];
  const [b, to] = stops[i];
  const f = (t - a) / (b - a);
  return `rgb(${from.map((v, k) => Math.round(v + f * (to[k] - v))).join(",")})`;
}
