import type { FaceView, MeasuredFeature } from "../../api/client";
import { fixed } from "../../ui/format";

/** What a face is, in a few words: "bore, ⌀16.040". */
export function describeFace(face: FaceView): string {
  const n = face.numbers;
  switch (face.kind) {
    case "cylinder":
      // What goes round by less than half is a rounding, told by its radius as on a drawing.
      return face.sweep < Math.PI - 1e-6
        ? `${face.internal ? "inner" : "outer"} radius, R${fixed(n[6])}`
        : `${face.internal ? "bore" : "cylinder"}, ⌀${fixed(2 * n[6])}`;
    case "cone":
      return `${face.internal ? "conical hole" : "cone"}, half angle ${fixed((n[6] * 180) / Math.PI, 2)}°`;
    case "sphere":
      return `${face.internal ? "spherical seat" : "sphere"}, ⌀${fixed(2 * n[3])}`;
    case "torus":
      return `torus, radii ${fixed(n[6])} and ${fixed(n[7])}`;
    case "plane":
      return `plane, ${fixed(face.area, 0)} mm²`;
    default:
      return `freeform, ${fixed(face.area, 0)} mm²`;
  }
}

/** The numbers of a shape with their names, for measured against nominal. */
export function parameters(kind: string, n: readonly number[]): [string, number, number][] {
  const degrees = 180 / Math.PI;
  const xyz = (name: string, at: number): [string, number, number][] =>
    ["x", "y", "z"].map((axis, k) => [`${name} ${axis}`, n[at + k], 4] as [string, number, number]);
  switch (kind) {
    case "plane":
      return [...xyz("point", 0), ...xyz("normal", 3)];
    case "cylinder":
      return [["diameter", 2 * n[6], 4], ...xyz("axis point", 0), ...xyz("axis", 3)];
    case "cone":
      return [["half angle °", n[6] * degrees, 4], ...xyz("apex", 0), ...xyz("axis", 3)];
    case "sphere":
      return [["diameter", 2 * n[3], 4], ...xyz("centre", 0)];
    case "point":
      return xyz("place", 0);
    case "axis":
    case "line":
      return [...xyz("point", 0), ...xyz("direction", 3)];
    case "slot":
      return [["length", n[9], 4], ["width", n[10], 4], ...xyz("centre", 0), ...xyz("direction", 6)];
    case "circle":
      return [["diameter", 2 * n[6], 4], ...xyz("centre", 0), ...xyz("normal", 3)];
    case "torus":
      return [["major radius", n[6], 4], ["minor radius", n[7], 4], ...xyz("centre", 0), ...xyz("axis", 3)];
    default:
      return [];
  }
}

/**
 * The nominal's numbers at the same place: any point of an axis or plane is as good as another, so the one nearest the
 * measured point is shown.
 */
export function beside(kind: string, nominal: readonly number[], measured: readonly number[]): number[] {
  const [p, a, m] = [nominal.slice(0, 3), nominal.slice(3, 6), measured.slice(0, 3)];
  const along = [0, 1, 2].reduce((sum, k) => sum + (m[k] - p[k]) * a[k], 0);
  if (kind === "plane") {
    return [...m.map((v, k) => v - along * a[k]), ...a, ...nominal.slice(6)];
  }

  return kind === "cylinder" || kind === "axis" || kind === "line"
    ? [...p.map((v, k) => v + along * a[k]), ...a, ...nominal.slice(6)]
    : [...nominal];
}

interface MainNumber {
  sign: string;
  value: number;
  nominal: number;
  /** Expanded, k = 2. */
  u: number;
}

/** The number by which a feature is known: a diameter. Planes, axes and points have none. */
export function mainNumber(f: MeasuredFeature): MainNumber | null {
  const at = f.kind === "sphere" ? 3 : 6;
  return f.kind === "cylinder" || f.kind === "sphere" || f.kind === "circle"
    ? { sign: "⌀", value: 2 * f.measured[at], nominal: 2 * f.nominal[at], u: 4 * f.radiusSigma }
    : null;
}
