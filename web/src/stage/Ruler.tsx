import { useMemo, useRef, useState, type KeyboardEvent, type PointerEvent } from "react";
import { fixed, percent, signed } from "../ui/format";
import { useBenchOf } from "./bench";
import { histogram, within } from "./histogram";
import { color } from "./ramp";

const HEIGHT = 300;
const BINS = 100;

/** Legend, statistics and control in one: the histogram of deviations along the ramp, with the limits as handles. */
export function Ruler() {
  const { deviations, areas, limits, set } = useBenchOf("deviations", "areas", "limits", "set");
  const track = useRef<SVGSVGElement>(null);
  // Both limits are always on it, however narrow the data; it does not shrink under the hand that drags them inward.
  const data = useMemo(() => reach(deviations), [deviations]);
  const [held, setHeld] = useState(0);
  const needed = round(1.1 * Math.max(Math.abs(limits.lower), Math.abs(limits.upper)));
  const range = Math.max(data, needed, held);
  const bars = useMemo(
    () => (deviations ? histogram(deviations, areas, -range, range, BINS) : null),
    [deviations, areas, range],
  );
  const share = useMemo(
    () => (deviations ? within(deviations, areas, limits.lower, limits.upper) : 0),
    [deviations, areas, limits],
  );
  if (!bars) {
    return null;
  }

  const y = (v: number) => ((range - v) / (2 * range)) * HEIGHT;
  const most = Math.max(...bars.bins);
  const move = (which: "lower" | "upper", value: number) => {
    const smallest = range / 500;
    const next =
      which === "lower"
        ? { ...limits, lower: Math.max(-range, Math.min(value, limits.upper - smallest, -smallest)) }
        : { ...limits, upper: Math.min(range, Math.max(value, limits.lower + smallest, smallest)) };
    set({ limits: next });
  };
  const drag = (which: "lower" | "upper") => (e: PointerEvent<SVGGElement>) => {
    const element = e.currentTarget;
    element.setPointerCapture(e.pointerId);
    setHeld(range);
    const follow = (m: globalThis.PointerEvent) => {
      const box = track.current!.getBoundingClientRect();
      move(which, range - ((m.clientY - box.top) / box.height) * 2 * range);
    };
    const done = () => {
      element.removeEventListener("pointermove", follow);
      element.removeEventListener("pointerup", done);
      setHeld(0);
    };
    element.addEventListener("pointermove", follow);
    element.addEventListener("pointerup", done);
  };
  const keys = (which: "lower" | "upper") => (e: KeyboardEvent) => {
    const step = (e.shiftKey ? 10 : 1) * (range / 200);
    if (e.key === "ArrowUp" || e.key === "ArrowDown") {
      e.preventDefault();
      move(which, limits[which] + (e.key === "ArrowUp" ? step : -step));
    }
  };

  return (
    <div className="absolute top-3 right-3 w-[132px] rounded border border-line bg-panel/95 p-2" data-testid="ruler">
      <div className="mb-2.5 flex justify-between text-xs">
        <span className="text-soft">within</span>
        <span className="num font-semibold" data-testid="ruler-within">
          {percent(share)}
        </span>
      </div>
      <svg ref={track} width="116" height={HEIGHT} className="block touch-none overflow-visible select-none">
        <defs>
          <pattern id="beyond" width="6" height="6" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
            <rect width="2" height="6" fill="#1e2a32" opacity="0.45" />
          </pattern>
          <pattern id="short" width="6" height="6" patternUnits="userSpaceOnUse" patternTransform="rotate(-45)">
            <rect width="2" height="6" fill="#1e2a32" opacity="0.45" />
          </pattern>
        </defs>
        {bars.bins.map((w, i) => {
          const v = -range + ((i + 0.5) / BINS) * 2 * range;
          return (
            <g key={i}>
              <rect x="0" y={y(v) - 1.6} width="16" height="3.2" fill={color(v, limits.lower, limits.upper)} />
              <rect
                x="18"
                y={y(v) - 1.4}
                width={Math.sqrt(w / most) * 52}
                height="2.8"
                fill="var(--soft)"
                opacity="0.55"
              />
            </g>
          );
        })}
        <rect x="0" y="0" width="16" height={y(limits.upper)} fill="url(#beyond)" />
        <rect x="0" y={y(limits.lower)} width="16" height={HEIGHT - y(limits.lower)} fill="url(#short)" />
        <line x1="0" x2="70" y1={y(0)} y2={y(0)} stroke="var(--ink)" strokeDasharray="2 2" />
        <text x="74" y={y(0) + 4} className="num" fontSize="11" fill="var(--soft)">
          0
        </text>
        {(["upper", "lower"] as const).map((which) => (
          <g
            key={which}
            role="slider"
            tabIndex={0}
            aria-label={`${which} limit of the deviation band`}
            aria-orientation="vertical"
            aria-valuenow={Number(limits[which].toFixed(4))}
            aria-valuemin={-range}
            aria-valuemax={range}
            className="cursor-ns-resize"
            onPointerDown={drag(which)}
            onKeyDown={keys(which)}
          >
            <rect x="0" y={y(limits[which]) - 9} width="116" height="18" fill="transparent" />
            <line x1="0" x2="64" y1={y(limits[which])} y2={y(limits[which])} stroke="var(--indigo)" strokeWidth="2" />
            <rect x="62" y={y(limits[which]) - 8} width="53" height="16" rx="2" fill="var(--indigo)" />
            <text x="112" y={y(limits[which]) + 4} textAnchor="end" className="num" fontSize="11" fill="var(--panel)">
              {signed(limits[which])}
            </text>
          </g>
        ))}
      </svg>
      <div className="num mt-2.5 text-xs text-soft">mm, ±{fixed(range, 2)}</div>
    </div>
  );
}

/** The ruler reaches a little beyond nearly all values, and does not change while the limits are dragged. */
function reach(values: Float32Array | null): number {
  if (!values) {
    return 1;
  }

  const sizes: number[] = [];
  const step = Math.max(1, Math.floor(values.length / 20000));
  for (let i = 0; i < values.length; i += step) {
    if (!Number.isNaN(values[i])) {
      sizes.push(Math.abs(values[i]));
    }
  }

  sizes.sort((a, b) => a - b);
  const high = sizes[Math.floor(0.999 * (sizes.length - 1))] ?? 0.1;
  return round(1.25 * high);
}

/** The next round number, at least a hundredth of a mm. */
function round(value: number): number {
  const power = 10 ** Math.floor(Math.log10(Math.max(0.01, value)));
  return power * ([1, 1.5, 2, 3, 4, 5, 8, 10].find((n) => n * power >= value) ?? 10);
}
