import { useEffect, useRef } from "react";
import type { Schemas } from "../../api/client";
import { residualColor, residualScale } from "../../stage/residuals";
import { fixed } from "../../ui/format";

const BINS = 40;

/** Histogram of the residuals in the colours that they have on the stage, and the feature laid flat with them. */
export function Residuals({ values, map }: { values: number[]; map: Schemas["ResidualMap"] | null }) {
  const [low, high] = values.reduce(([a, b], v) => [Math.min(a, v), Math.max(b, v)], [Infinity, -Infinity]);
  const bins = new Array<number>(BINS).fill(0);
  for (const v of values) {
    bins[Math.min(BINS - 1, Math.floor(((v - low) / Math.max(1e-12, high - low)) * BINS))]++;
  }

  const most = Math.max(...bins);
  const scale = residualScale(values);
  return (
    <>
      <figure className="mb-2">
        <svg viewBox="0 0 320 56" className="w-full" role="img" aria-label="Histogram of the residuals">
          {bins.map((n, i) => (
            <rect
              key={i}
              x={8 * i}
              width="7.4"
              y={54 - (50 * n) / most}
              height={(50 * n) / most}
              fill={residualColor(low + ((i + 0.5) / BINS) * (high - low), scale)}
              stroke="var(--soft)"
              strokeWidth="0.4"
            />
          ))}
          <line x1="0" x2="320" y1="54.5" y2="54.5" stroke="var(--line)" />
        </svg>
        <figcaption className="num flex justify-between text-xs text-soft">
          <span>{fixed(low, 4)}</span>
          <span className="font-sans">residuals, mm; full colour at ±{fixed(scale, 4)}</span>
          <span>{fixed(high, 4)}</span>
        </figcaption>
      </figure>
      {map && <Flat map={map} scale={scale} />}
    </>
  );
}

const WIDTH = 640;
const TALLEST = 320;
const MARGIN = 8;

/** A round feature unrolled, a plane seen square on; of a line or circle the residual goes up. */
function Flat({ map, scale }: { map: Schemas["ResidualMap"]; scale: number }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const range = (k: number) =>
    map.points.reduce(
      ([a, b], v, i) => (i % 3 === k ? [Math.min(a, v), Math.max(b, v)] : [a, b]),
      [Infinity, -Infinity],
    );
  const up = map.up === null ? 2 : 1;
  const [[u0, u1], [v0, v1]] = [range(0), range(up)];
  // Lengths both ways keep their proportion; anything else fills the picture.
  const height =
    map.across === map.up ? Math.max(60, Math.min(TALLEST, ((v1 - v0) / Math.max(1e-9, u1 - u0)) * WIDTH)) : 180;
  useEffect(() => {
    const context = canvas.current?.getContext("2d");
    if (!context) {
      return;
    }

    const proportion = Math.min((WIDTH - 2 * MARGIN) / (u1 - u0), (height - 2 * MARGIN) / (v1 - v0));
    const [su, sv] =
      map.across === map.up
        ? [proportion, proportion]
        : [(WIDTH - 2 * MARGIN) / Math.max(1e-9, u1 - u0), (height - 2 * MARGIN) / Math.max(1e-9, v1 - v0)];
    context.clearRect(0, 0, WIDTH, height);
    const size = map.points.length > 6000 ? 5 : 8;
    for (let i = 0; i < map.points.length; i += 3) {
      const [u, v, r] = [map.points[i], map.points[i + up], map.points[i + 2]];
      context.fillStyle = residualColor(r, scale);
      context.fillRect(
        (WIDTH - (u1 - u0) * su) / 2 + (u - u0) * su - size / 2,
        height - MARGIN - (v - v0) * sv - size / 2,
        size,
        size,
      );
    }
  }, [map, scale, height, up, u0, u1, v0, v1]);
  return (
    <figure className="mb-2">
      <canvas
        ref={canvas}
        width={WIDTH}
        height={height}
        className="w-full rounded border border-line"
        role="img"
        aria-label="The feature laid flat, coloured by its residuals"
      />
      <figcaption className="num flex justify-between text-xs text-soft">
        <span>{fixed(u0, 1)}</span>
        <span className="font-sans">
          {map.across}
          {map.up && map.up !== map.across ? `; up: ${map.up}, ${fixed(v0, 1)} to ${fixed(v1, 1)}` : ""}
        </span>
        <span>{fixed(u1, 1)}</span>
      </figcaption>
    </figure>
  );
}
