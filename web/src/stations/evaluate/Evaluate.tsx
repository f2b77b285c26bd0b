import { useCallback, useEffect } from "react";
import type { CharacteristicResult, InspectionPlan } from "../../api/client";
import { useAsDrawn, useEvidence, usePlanChange } from "../../api/hooks";
import { characteristicKinds } from "../../plan/characteristics";
import { isInSection } from "../../plan/sections";
import { useBench, useBenchOf } from "../../stage/bench";
import type { Evidence } from "../../stage/EvidenceLayer";
import { pickedFaces, usePick, type PickHandler } from "../../stage/picking";
import { count, percent } from "../../ui/format";
import { writing, type ShownUnit } from "../../ui/lengths";
import { Button, Facts } from "../../ui/parts";
import { VerdictMark } from "../../ui/VerdictMark";
import { Attention, Block, Worksheet } from "../../ui/Worksheet";
import type { StationProps } from "../types";
import { CharacteristicEditor } from "./CharacteristicEditor";
import { Conditions } from "./Conditions";
import { DecisionEditor } from "./DecisionEditor";
import { DrawingRules } from "./DrawingRules";
import { OtherWays } from "./OtherWays";
import { PlanProposals } from "./PlanProposals";
import { Proposals, type Proposal } from "./Proposals";
import { SectionEvidence } from "./SectionEvidence";

/** What is asked of the part, what came of it, and why that can be believed. */
export function Evaluate({ piece, plan, nominal, busy, start }: StationProps) {
  const { characteristic: chosen, faces, set } = useBenchOf("characteristic", "faces", "set");
  const { mutate } = usePlanChange(piece.partId);
  const change = (to: (p: InspectionPlan) => InspectionPlan) => mutate(to);
  const planned = (plan.plan.characteristics ?? []).find((c) => c.no === chosen);
  const row = planned && piece.run?.characteristics.find((c) => c.plan.no === chosen);
  const { data: drawn } = useAsDrawn(piece.partId, plan.number, nominal !== null);
  const { data: evidence = null, isLoading: looking } = useEvidence(piece, row ? row.plan.no : null, plan.number);
  useEffect(() => {
    set({ evidence });
    return () => set({ evidence: null });
  }, [evidence, set]);
  usePick(
    useCallback<PickHandler>(
      (hit, extend) => {
        if (hit?.face != null) {
          set({ characteristic: null, faces: pickedFaces(useBench.getState().faces, hit.face, extend) });
        }
      },
      [set],
    ),
  );
  // A new number takes the choice with it, unless something else was chosen meanwhile.
  const follow = (from: number, to: number) => {
    if (from !== to && useBench.getState().characteristic === from) {
      set({ characteristic: to });
    }
  };
  const take = (p: Proposal) =>
    mutate(
      (now) => ({
        ...now,
        features: [...(now.features ?? []), ...p.newFeatures],
        characteristics: [...(now.characteristics ?? []), p.characteristic],
      }),
      { onSuccess: () => set({ characteristic: p.characteristic.no }) },
    );
  return (
    <Worksheet
      title="Evaluate"
      lead={
        planned
          ? `Characteristic ${planned.no}: ${planned.name}`
          : "Pick a row of the ledger to see its evidence, or faces on the stage (Shift for more) to ask something of them."
      }
      action={
        <>
          <Button
            tone="primary"
            className="flex-1"
            disabled={busy || piece.vertices === 0}
            onClick={() => start("evaluate")}
          >
            {piece.run?.characteristics.length ? "Evaluate again" : "Evaluate"}
          </Button>
          {planned && <Button onClick={() => set({ characteristic: null, faces: [] })}>Close row</Button>}
        </>
      }
    >
      {piece.run?.stale && (
        <Attention>
          The plan, the nominal or the scan changed since this was evaluated
          {piece.run.planNumber !== null && piece.run.planNumber !== plan.number
            ? ` on plan ${piece.run.planNumber}; the plan is now ${plan.number}`
            : ""}
          . Evaluate again: only what is out of date is done.
        </Attention>
      )}
      {row && <Result row={row} shown={plan.plan.shown} evidence={evidence} looking={looking} />}
      {row && <OtherWays key={`ways-${row.plan.no}`} piece={piece} plan={plan} row={row} />}
      {row && isInSection(row.plan) && (
        <SectionEvidence key={`section-${row.plan.no}`} piece={piece} plan={plan} row={row.plan} evidence={evidence} />
      )}
      {planned && (
        <CharacteristicEditor
          key={`asked-${planned.no}`}
          partId={piece.partId}
          plan={plan.plan}
          drawn={drawn?.find((d) => d.no === planned.no)?.text ?? null}
          nominal={nominal}
          characteristic={planned}
          disabled={busy}
          onChange={(edit) =>
            mutate(
              (p) => ({ ...p, characteristics: p.characteristics?.map((c) => (c.no === planned.no ? edit(c) : c)) }),
              { onSuccess: () => follow(planned.no, edit(planned).no) },
            )
          }
          onRemove={() => {
            set({ characteristic: null, faces: [] });
            change((p) => ({ ...p, characteristics: p.characteristics?.filter((c) => c.no !== planned.no) }));
          }}
        />
      )}
      {!planned && (
        <Proposals partId={piece.partId} planNumber={plan.number} faces={faces} disabled={busy} onTake={take} />
      )}
      {!planned && faces.length === 0 && nominal && (
        <PlanProposals plan={plan} partId={piece.partId} disabled={busy} onChange={change} />
      )}
      <DrawingRules plan={plan} disabled={busy} onChange={change} />
      <Conditions plan={plan} disabled={busy} onChange={change} />
      <DecisionEditor plan={plan} disabled={busy} onChange={change} />
    </Worksheet>
  );
}

interface ResultProps {
  row: CharacteristicResult;
  shown: ShownUnit | undefined;
  evidence: Evidence | null;
  /** The evidence is on its way. */
  looking: boolean;
}

function Result({ row, shown, evidence, looking }: ResultProps) {
  const d = row.decimals;
  const { fixed, sign: unit } = writing(row.unit, shown);
  return (
    <Block title={characteristicKinds[row.plan.kind].name}>
      <div className="mb-2 flex items-baseline justify-between">
        <span className="num text-xl font-semibold">
          {fixed(row.measured, d)} <span className="text-base font-normal">{unit}</span>
        </span>
        <VerdictMark verdict={row.verdict} />
      </div>
      <Facts
        rows={[
          row.nominal !== null && ["nominal", `${fixed(row.nominal, d)} ${unit}`],
          row.lowerLimit !== null && ["lower limit", `${fixed(row.lowerLimit, d)} ${unit}`],
          row.bonus > 0 && ["bonus of the size", `${fixed(row.bonus, d)} ${unit}`],
          row.upperLimit !== null && ["upper limit", `${fixed(row.upperLimit, d)} ${unit}`],
          ["expanded uncertainty U, 95 %", `${fixed(row.uncertainty, d + 1)} ${unit}`],
          row.beyond > 0 && ["beyond the limit by", `${fixed(row.beyond, d)} ${unit}`],
          ["points used", count(row.points)],
          row.coverage > 0 && ["measured share", percent(row.coverage)],
        ]}
      />
      {row.budget.length > 0 && <Budget row={row} shown={shown} />}
      <p className="mt-2">{row.method}</p>
      {/* It has its room before it comes: what stands below must not move away under the hand. */}
      {(evidence || looking) && (
        <p className="mt-1 min-h-[2lh] text-xs text-soft">
          {evidence ? marks(evidence) : "On the stage: what the value rests on is being looked up …"}
        </p>
      )}
      {row.remark && <p className="mt-1 text-brass">{row.remark}</p>}
    </Block>
  );
}

/** The legend of what the stage marks. */
function marks({ used, leftOut, unmatched, missing }: Evidence): string {
  const kinds: [number, string][] = [
    [used.length, `point${used.length === 1 ? "" : "s"} used (dots)`],
    [leftOut.length, "left out (rings)"],
    [unmatched.length, "without counterpart (crosses)"],
    [missing.length / 3, `place${missing.length === 3 ? "" : "s"} not measured (squares)`],
  ];
  const said = kinds.filter(([n]) => n > 0).map(([n, what]) => `${count(n)} ${what}`);
  return `On the stage: ${said.length > 0 ? said.join(", ") : "the section that it lies in"}.`;
}

/** What the uncertainty is made of: standard uncertainties and their shares of the variance. */
function Budget({ row, shown }: Pick<ResultProps, "row" | "shown">) {
  const { fixed, sign } = writing(row.unit, shown);
  const variance = row.budget.reduce((sum, c) => sum + c.sigma ** 2, 0);
  return (
    <table className="mt-2 w-full text-xs">
      <caption className="text-left text-soft">What U is made of, as standard uncertainties</caption>
      <tbody>
        {row.budget.map((c) => (
          <tr key={c.source} className="border-t border-line">
            <td className="py-0.5 pr-2">{c.source}</td>
            <td className="num text-right whitespace-nowrap">
              {fixed(c.sigma, row.decimals + 2)} {sign}
            </td>
            <td className="w-24 pl-2">
              <span className="flex items-center gap-1">
                <span className="h-2 flex-1 bg-tint" aria-hidden>
                  <span className="block h-full bg-indigo" style={{ width: `${(100 * c.sigma ** 2) / variance}%` }} />
                </span>
                <span className="num w-12 text-right whitespace-nowrap text-soft">
                  {percent(c.sigma ** 2 / variance)}
                </span>
              </span>
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
