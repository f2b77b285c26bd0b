import { useMemo } from "react";
import type { PieceView, PlanView } from "../../api/client";
import { useBenchOf } from "../../stage/bench";
import { areaWithin } from "../../stage/histogram";
import { capital, count, fixed, percent, signed } from "../../ui/format";
import { NumberField } from "../../ui/NumberField";
import { Facts } from "../../ui/parts";
import { Block } from "../../ui/Worksheet";
import { round } from "./round";
import type { ChangePlan } from "./types";

/** mm. */
const LEAST_BAND = 1e-4;

const levels = [0.2, 0.1, 0.05, 0.02, 0.01];

interface Props {
  piece: PieceView;
  plan: PlanView;
  disabled: boolean;
  onChange: ChangePlan;
}

/** The band of the deviation, how much lies within others, where counterparts are sought, and the statistics. */
export function DeviationBand({ piece, plan, disabled, onChange }: Props) {
  const { limits, values, areas, set } = useBenchOf("limits", "values", "areas", "set");
  // Counted once for the map, not with every movement of a limit.
  const shares = useMemo(
    () => levels.map((t) => ({ t, ...(values ? areaWithin(values, areas, -t, t) : { inside: 0, area: 0 }) })),
    [values, areas],
  );
  const kept = plan.plan.compare;
  const comparison = piece.run?.comparison;
  const keep = (compare: object) => onChange((p) => ({ ...p, compare: { ...p.compare!, ...compare } }));
  if (!comparison) {
    return null;
  }

  const s = comparison.statistics;
  return (
    <>
      <div className="grid grid-cols-2 gap-2">
        <NumberField
          label="Lower limit, mm"
          value={round(limits.lower)}
          max={round(limits.upper - LEAST_BAND)}
          onChange={(lower) => lower !== null && set({ limits: { ...limits, lower } })}
        />
        <NumberField
          label="Upper limit, mm"
          value={round(limits.upper)}
          min={round(limits.lower + LEAST_BAND)}
          onChange={(upper) => upper !== null && set({ limits: { ...limits, upper } })}
        />
      </div>
      <Block title="Is all of it within?">
        <table className="w-full" aria-label="Share of the area within bands">
          <tbody>
            {shares.map(({ t, inside, area }) => {
              const taken = limits.lower === -t && limits.upper === t;
              return (
                <tr key={t} className="border-t border-line/60 first:border-0">
                  <td className="py-0.5">
                    <button
                      type="button"
                      aria-pressed={taken}
                      className={`num rounded px-1.5 hover:bg-tint ${taken ? "bg-indigo text-panel" : "underline"}`}
                      onClick={() => set({ limits: { lower: -t, upper: t } })}
                    >
                      ±{t} mm
                    </button>
                  </td>
                  <td className="num text-right">{values ? percent(area > 0 ? inside / area : 0) : "…"}</td>
                  <td className="num text-right text-soft">
                    {piece.triangles > 0 ? `${fixed(area - inside, 0)} mm² beyond` : ""}
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
      </Block>
      <Block title="Whole part, weighted by area">
        <p className="mb-1 text-soft">{capital(comparison.method)}.</p>
        <Facts
          rows={[
            ["least", `${signed(s.min)} mm`],
            ["greatest", `${signed(s.max)} mm`],
            ["mean", `${signed(s.mean, 4)} mm`],
            ["standard deviation", `${fixed(s.std, 4)} mm`],
            ["RMS", `${fixed(s.rms, 4)} mm`],
            ["points compared", count(s.count)],
            ["no data", percent(s.noData)],
          ]}
        />
      </Block>
      <Block title="Counterparts">
        <div className="grid grid-cols-2 gap-2">
          <NumberField
            label="Sought within, mm"
            value={kept?.maxDistance}
            empty="from the part"
            min={0}
            disabled={disabled}
            onChange={(maxDistance) => keep({ maxDistance })}
          />
          <NumberField
            label="Normals agree within, °"
            value={kept?.maxAngleDegrees ?? 60}
            min={0}
            max={180}
            disabled={disabled}
            onChange={(v) => keep({ maxAngleDegrees: v ?? 60 })}
          />
        </div>
      </Block>
    </>
  );
}
