import type { Schemas } from "../api/client";

export type RampKind = NonNullable<Schemas["RampKind"]>;
export type Ramp = { kind: RampKind; steps: number | null };

type Colour = readonly [number, number, number];

/** Colours of a ramp at −1, −½, 0, ½ and 1; the same as in the core's ColourScale. */
export const ramps: Record<RampKind, { name: string; stops: readonly Colour[] }> = {
  "blue-rust": {
    name: "blue – rust",
    stops: [
      [0x0b, 0x4f, 0x6c],
      [0x5f, 0xa3, 0xb8],
      [0xf4, 0xee, 0xdd],
      [0xd9, 0x8e, 0x4a],
      [0x8f, 0x2d, 0x14],
    ],
  },
  "green-plum": {
    name: "green – plum",
    stops: [
      [0x0b, 0x5a, 0x3c],
      [0x68, 0xad, 0x86],
      [0xf4, 0xee, 0xdd],
      [0xbe, 0x7f, 0xae],
      [0x63, 0x1c, 0x58],
    ],
  },
  grey: {
    name: "grey",
    stops: [
      [0x2a, 0x2e, 0x33],
      [0x5f, 0x63, 103.5],
      [0x94, 0x98, 0x9c],
      [199.5, 201, 201.5],
      [0xfb, 0xfa, 0xf7],
    ],
  },
};

/** How values are coloured: along a ramp from one end to the other, hatched beyond where the end is a limit. */
export interface Scale {
  lower: number;
  upper: number;
  lowerBinds: boolean;
  upperBinds: boolean;
  ramp: Ramp;
}

/** The middle of the ramp: 0 where that lies between the ends, else half way. */
export const centre = ({ lower, upper }: Pick<Scale, "lower" | "upper">): number =>
  lower < 0 && upper > 0 ? 0 : (lower + upper) / 2;

/** Place of a value on the ramp: −1 at the lower end, 1 at the upper, each side linear, or in steps. */
export function place(value: number, scale: Scale): number {
  const c = centre(scale);
  const t = Math.max(-1, Math.min(1, (value - c) / (value < c ? c - scale.lower : scale.upper - c)));
  const n = scale.ramp.steps;
  return n ? (t < 0 ? -1 : 1) * ((Math.min(n - 1, Math.floor(Math.abs(t) * n)) + 0.5) / n) : t;
}

/** −1 beyond the lower limit, 1 beyond the upper, 0 within. */
export const beyond = (value: number, s: Scale): -1 | 0 | 1 =>
  s.lowerBinds && value < s.lower ? -1 : s.upperBinds && value > s.upper ? 1 : 0;

/** CSS colour of a value. */
export function color(value: number, scale: Scale): string {
  const at = 2 * (place(value, scale) + 1);
  const i = Math.min(3, Math.floor(at));
  const { stops } = ramps[scale.ramp.kind];
  return `rgb(${stops[i].map((v, k) => Math.round(v + (at - i) * (stops[i + 1][k] - v))).join(",")})`;
}
