import { useMemo, useRef, useState, type KeyboardEvent, type PointerEvent } from "react";
import { fixed, percent, signed } from "../ui/format";
import { useBenchOf } from "./bench";
import { histogram, spanOf, within } from "./histogram";
import { color, type Scale } from "./ramp";
import type { Shown } from "./shown";

const HEIGHT = 300;
const BINS = 100;

/** Height of the number of a limit. */
const TALL = 16;

/** Legend, statistics and control in one: the histogram of a map along its ramp, with the limits as handles. */
export function Ruler({ shown: { scale, unit, name, move: moveTo } }: { shown: Shown }) {
  const { values, areas } = useBenchOf("values", "areas");
  const track = useRef<SVGSVGElement>(null);
  const data = useMemo(() => values && spanOf(values), [values]);
  // It does not shrink under the hand that drags the limits inward.
  const [held, setHeld] = useState<Range | null>(null);
  const { low, high } = rangeOf(data, scale, held);
  const bars = useMemo(() => (values ? histogram(values, areas, low, high, BINS) : null), [values, areas, low, high]);
  const [least, greatest] = [scale.lowerBinds ? scale.lower : -Infinity, scale.upperBinds ? scale.upper : Infinity];
  const share = useMemo(() => (values ? within(values, areas, least, greatest) : 0), [values, areas, least, greatest]);
  if (!bars) {
    return null;
  }

  const range = high - low;
  const decimals = Math.max(0, Math.min(5, 2 - Math.floor(Math.log10(range))));
  const sign = (v: number) => (low < 0 ? signed(v, decimals) : fixed(v, decimals));
  const y = (v: number) => ((high - v) / range) * HEIGHT;
  // The numbers of limits that lie close together give way to each other.
  const give = Math.max(0, (TALL + 1 - (y(scale.lower) - y(scale.upper))) / 2);
  const number = { upper: y(scale.upper) - give, lower: y(scale.lower) + give };
  const most = Math.max(...bars.bins);
  const move = (which: "lower" | "upper", value: number) => {
    const smallest = range / 1000;
    // Around 0 each limit stays on its side.
    const split = scale.lower < 0 && scale.upper > 0;
    moveTo(
      which === "lower"
        ? { lower: Math.max(low, Math.min(value, split ? -smallest : scale.upper - smallest)) }
        : { upper: Math.min(high, Math.max(value, split ? smallest : scale.lower + smallest)) },
    );
  };
  const drag = (which: "lower" | "upper") => (e: PointerEvent<SVGGElement>) => {
    const element = e.currentTarget;
    element.setPointerCapture(e.pointerId);
    setHeld({ low, high });
    const follow = (m: globalThis.PointerEvent) => {
      const box = track.current!.getBoundingClientRect();
      move(which, high - ((m.clientY - box.top) / box.height) * range);
    };
    const done = () => {
      element.removeEventListener("pointermove", follow);
      element.removeEventListener("pointerup", done);
      setHeld(null);
    };
    element.addEventListener("pointermove", follow);
    element.addEventListener("pointerup", done);
  };
  const keys = (which: "lower" | "upper") => (e: KeyboardEvent) => {
    const step = (e.shiftKey ? 10 : 1) * (range / 400);
    if (e.key === "ArrowUp" || e.key === "ArrowDown") {
      e.preventDefault();
      move(which, scale[which] + (e.key === "ArrowUp" ? step : -step));
    }
  };

  return (
    <div className="absolute top-3 right-3 w-[132px] rounded border border-line bg-panel/95 p-2" data-testid="ruler">
      <div className="mb-2.5 flex justify-between text-xs">
        <span className="text-soft">{scale.lowerBinds || scale.upperBinds ? "within" : "no limits"}</span>
        <span className="num font-semibold" data-testid="ruler-within">
          {(scale.lowerBinds || scale.upperBinds) && percent(share)}
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
          const v = low + ((i + 0.5) / BINS) * range;
          return (
            <g key={i}>
              <rect x="0" y={y(v) - 1.6} width="16" height="3.2" fill={color(v, scale)} />
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
        {scale.upperBinds && <rect x="0" y="0" width="16" height={y(scale.upper)} fill="url(#beyond)" />}
        {scale.lowerBinds && (
          <rect x="0" y={y(scale.lower)} width="16" height={HEIGHT - y(scale.lower)} fill="url(#short)" />
        )}
        {low < 0 && high > 0 && (
          <>
            <line x1="0" x2="70" y1={y(0)} y2={y(0)} stroke="var(--ink)" strokeDasharray="2 2" />
            <text x="74" y={y(0) + 4} className="num" fontSize="11" fill="var(--soft)">
              0
            </text>
          </>
        )}
        {(["upper", "lower"] as const).map((which) => (
          <g
            key={which}
            role="slider"
            tabIndex={0}
            aria-label={`${which} limit of the ${name} band`}
            aria-orientation="vertical"
            aria-valuenow={Number(scale[which].toPrecision(6))}
            aria-valuemin={low}
            aria-valuemax={high}
            className="cursor-ns-resize"
            onPointerDown={drag(which)}
            onKeyDown={keys(which)}
          >
            <rect x="0" y={y(scale[which]) - 9} width="116" height="18" fill="transparent" />
            <line
              x1="0"
              x2="64"
              y1={y(scale[which])}
              y2={y(scale[which])}
              stroke="var(--indigo)"
              strokeWidth="2"
              strokeDasharray={binds[which](scale) ? undefined : "3 3"}
            />
            <rect
              x="62"
              y={number[which] - TALL / 2}
              width="53"
              height={TALL}
              rx="2"
              fill={binds[which](scale) ? "var(--indigo)" : "var(--panel)"}
              stroke="var(--indigo)"
            />
            <text
              x="112"
              y={number[which] + 4}
              textAnchor="end"
              className="num"
              fontSize={sign(scale[which]).length > 6 ? 10 : 11}
              fill={binds[which](scale) ? "var(--panel)" : "var(--indigo)"}
            >
              {sign(scale[which])}
            </text>
          </g>
        ))}
      </svg>
      <div className="num mt-2.5 text-xs text-soft">
        {unit}, {low === -high ? `±${fixed(high, Math.max(2, decimals - 1))}` : `${sign(low)} to ${sign(high)}`}
      </div>
    </div>
  );
}

const binds = { lower: (s: Scale) => s.lowerBinds, upper: (s: Scale) => s.upperBinds };

interface Range {
  low: number;
  high: number;
}

/** The ruler reaches a little beyond nearly all values and both limits; where they lie about 0, as far either way. */
function rangeOf(data: [number, number] | null, { lower, upper }: Scale, held: Range | null): Range {
  const [from, to] = [Math.min(data?.[0] ?? lower, lower), Math.max(data?.[1] ?? upper, upper)];
  const reached =
    from < 0 && to > 0
      ? about(Math.max(1.1 * Math.max(...(data ?? [0]).map(Math.abs)), 1.1 * Math.max(-lower, upper)))
      : { low: beside(from, -0.08 * (to - from)), high: beside(to, 0.08 * (to - from)) };
  return held ? { low: Math.min(held.low, reached.low), high: Math.max(held.high, reached.high) } : reached;
}

/** A little beyond an end, though not past 0. */
const beside = (end: number, by: number) => ((end + by) * end < 0 ? 0 : end + by);

const about = (far: number): Range => ({ low: -round(far), high: round(far) });

/** The next round number, at least a thousandth. */
function round(value: number): number {
  const power = 10 ** Math.floor(Math.log10(Math.max(0.001, value)) + 1e-9);
  return Number((power * ([1, 1.5, 2, 3, 4, 5, 8, 10].find((n) => n * power >= value) ?? 10)).toPrecision(6));
}
