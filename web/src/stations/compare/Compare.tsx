import { Pin } from "lucide-react";
import { usePlanChange } from "../../api/hooks";
import type { InspectionPlan } from "../../api/client";
import { StandsIn } from "../../plan/StandsIn";
import { useBenchOf } from "../../stage/bench";
import { within } from "../../stage/histogram";
import { capital, count, fixed, percent, signed } from "../../ui/format";
import { Button, Check, Facts, Field, Input } from "../../ui/parts";
import { NumberField } from "../../ui/NumberField";
import { Attention, Block, Worksheet } from "../../ui/Worksheet";
import type { StationProps } from "../types";

const tightness = [0.2, 0.1, 0.05, 0.02, 0.01];

export function Compare({ piece, plan, nominal, busy, start }: StationProps) {
  const { limits, hideWithin, showEdges, pinning, deviations, areas, set } = useBenchOf(
    "limits",
    "hideWithin",
    "showEdges",
    "pinning",
    "deviations",
    "areas",
    "set",
  );
  const { mutate, isPending: saving } = usePlanChange(piece.partId);
  const keep = (compare: Partial<NonNullable<InspectionPlan["compare"]>>) =>
    mutate((p) => ({ ...p, compare: { ...p.compare, ...compare } as NonNullable<InspectionPlan["compare"]> }));
  const comparison = piece.run?.comparison;
  const s = comparison?.statistics;
  const labels = plan.plan.compare?.labels ?? [];
  const stale = piece.stations.find((st) => st.key === "compare")?.state === "outOfDate";
  const kept = plan.plan.compare;
  const changed = kept?.lower !== limits.lower || kept?.upper !== limits.upper;
  return (
    <Worksheet
      title="Compare"
      lead="Signed deviation of the scan from the nominal; positive is material in excess."
      action={
        <>
          <Button
            tone="primary"
            className="flex-1"
            disabled={busy || !nominal || piece.vertices === 0}
            onClick={() => start("compare")}
          >
            {s ? "Compare again" : "Compare"}
          </Button>
          <Button
            disabled={busy || !changed || saving}
            onClick={() => keep({ lower: round(limits.lower), upper: round(limits.upper) })}
          >
            Keep band in plan
          </Button>
        </>
      }
    >
      {stale && (
        <Attention>
          Something before this changed: what is shown is of before. Compare again to bring it up to date.
        </Attention>
      )}
      <StandsIn
        plan={plan.plan}
        value={kept?.alignment}
        disabled={busy || saving}
        onChange={(alignment) => keep({ alignment })}
      />
      {s && (
        <>
          <div className="grid grid-cols-2 gap-2">
            <Field label="Lower limit, mm">
              <Input
                type="number"
                step="0.01"
                value={round(limits.lower)}
                onChange={(e) =>
                  Number(e.target.value) < limits.upper && set({ limits: { ...limits, lower: Number(e.target.value) } })
                }
              />
            </Field>
            <Field label="Upper limit, mm">
              <Input
                type="number"
                step="0.01"
                value={round(limits.upper)}
                onChange={(e) =>
                  Number(e.target.value) > limits.lower && set({ limits: { ...limits, upper: Number(e.target.value) } })
                }
              />
            </Field>
          </div>
          <div className="space-y-1">
            <Check checked={hideWithin} onChange={(on) => set({ hideWithin: on })}>
              Hide what lies within
            </Check>
            <Check checked={showEdges} onChange={(on) => set({ showEdges: on })}>
              Edges of the nominal
            </Check>
          </div>
          <div className="flex flex-wrap gap-2">
            <Button
              aria-pressed={pinning}
              className={pinning ? "border-indigo bg-tint" : ""}
              onClick={() => set({ pinning: !pinning })}
            >
              <Pin size={14} /> {pinning ? "Click on the part …" : "Pin labels"}
            </Button>
            <Button disabled={labels.length === 0 || busy || saving} onClick={() => keep({ labels: [] })}>
              Remove {labels.length || ""} {labels.length === 1 ? "label" : "labels"}
            </Button>
          </div>
          <Block title="Counterparts">
            <div className="grid grid-cols-2 gap-2">
              <NumberField
                label="Sought within, mm"
                value={kept?.maxDistance}
                empty="from the part"
                min={0}
                disabled={busy || saving}
                onChange={(maxDistance) => keep({ maxDistance })}
              />
              <NumberField
                label="Normals agree within, °"
                value={kept?.maxAngleDegrees ?? 60}
                min={0}
                max={180}
                disabled={busy || saving}
                onChange={(v) => keep({ maxAngleDegrees: v ?? 60 })}
              />
            </div>
          </Block>
          <Block title="Whole part, weighted by area">
            <p className="mb-1 text-soft">{capital(comparison!.method)}.</p>
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
          <Block title="Share within">
            <Facts
              rows={tightness.map(
                (t) => [`±${t} mm`, deviations ? percent(within(deviations, areas, -t, t)) : "…"] as const,
              )}
            />
          </Block>
        </>
      )}
    </Worksheet>
  );
}

const round = (v: number) => Math.round(v * 1e4) / 1e4;
