import type { SectionSheet } from "../plan/sections";
import { beyond, color, type Scale } from "./ramp";

const MARGIN = 0.12;

/** Share of the width that the ruler covers at the right. */
const RULER = 0.2;

/** A part of a sheet, mm; y downward, as pictures have it. */
export interface View {
  x: number;
  y: number;
  width: number;
  height: number;
}

/** A point of the scan on a sheet. */
export interface Measured {
  value: number;
  x: number;
  y: number;
}

/** All of the nominal with a margin. */
export function wholeOf(sheet: SectionSheet): View {
  const [left, right, low, top] = [0, 1].flatMap((k) => {
    const along = sheet.nominal.flatMap((o) => o.points.filter((_, i) => i % 2 === k));
    return [along.reduce((a, b) => Math.min(a, b)), along.reduce((a, b) => Math.max(a, b))];
  });
  const m = MARGIN * Math.max(right - left, top - low);
  return { x: left - m, y: -top - m, width: (right - left + 2 * m) * (1 + RULER), height: top - low + 2 * m };
}

export function path(points: readonly number[], closed: boolean): string {
  let d = "";
  for (let i = 0; i < points.length; i += 2) {
    d += `${i === 0 ? "M" : "L"}${points[i]} ${-points[i + 1]}`;
  }

  return closed ? d + "Z" : d;
}

export function dots(points: readonly number[]): string {
  let d = "";
  for (let i = 0; i < points.length; i += 2) {
    d += `M${points[i]} ${-points[i + 1]}h0`;
  }

  return d;
}

/** From where each point belongs, so many times as far as it lies off; beyond a limit with a bar at the end. */
export function strokes(sheet: SectionSheet, times: number, scale: Scale, apart: number) {
  const made: { d: string; stroke: string }[] = [];
  for (const o of sheet.scan) {
    let [lastX, lastY] = [Infinity, Infinity];
    o.values.forEach((value, i) => {
      const [x, y] = [o.feet[2 * i], o.feet[2 * i + 1]];
      if (value === null || Math.hypot(x - lastX, y - lastY) < apart) {
        return;
      }

      [lastX, lastY] = [x, y];
      const [dx, dy] = [times * (o.points[2 * i] - x), times * (o.points[2 * i + 1] - y)];
      const length = Math.hypot(dx, dy) || 1;
      const [ax, ay] = [(-0.6 * apart * dy) / length, (0.6 * apart * dx) / length];
      made.push({
        stroke: color(value, scale),
        d:
          `M${x} ${-y}L${x + dx} ${-(y + dy)}` +
          (beyond(value, scale) !== 0 ? `M${x + dx - ax} ${-(y + dy - ay)}L${x + dx + ax} ${-(y + dy + ay)}` : ""),
      });
    });
  }

  return made;
}

/** The measured point nearest to a place of the sheet. */
export function nearest(sheet: SectionSheet, x: number, y: number, within: number): Measured | null {
  const found: { best: number; at: Measured | null } = { best: within, at: null };
  for (const o of sheet.scan) {
    o.values.forEach((value, i) => {
      const far = Math.hypot(o.points[2 * i] - x, o.points[2 * i + 1] - y);
      if (value !== null && far < found.best) {
        found.best = far;
        found.at = { value, x: o.points[2 * i], y: o.points[2 * i + 1] };
      }
    });
  }

  return found.at;
}
