import { useEffect, useState } from "react";
import type { CharacteristicView, PlanView } from "../../api/client";
import { useEvidence, usePlanEdit } from "../../api/hooks";
import { useBench } from "../../stage/bench";
import type { Evidence } from "../../stage/EvidenceLayer";
import { count, fixed, percent, words } from "../../ui/format";
import { Button, Facts, Field, Input, Select } from "../../ui/parts";
import { VerdictMark } from "../../ui/VerdictMark";
import { Attention, Block, Worksheet } from "../../ui/Worksheet";
import type { StationProps } from "../types";
import { CharacteristicForm, type CharacteristicPlan } from "./CharacteristicForm";
import { Conditions } from "./Conditions";

export function Evaluate({ piece, plan, busy, start }: StationProps) {
  const chosen = useBench((s) => s.characteristic);
  // The plan as it was when the form was opened: if somebody saves meanwhile, the server refuses this edit and says so.
  const [editing, setEditing] = useState<{ row: CharacteristicPlan | null; plan: PlanView } | null>(null);
  const edit = usePlanEdit(piece.partId);
  const all = plan.plan.characteristics ?? [];
  const row = piece.run?.characteristics.find((c) => c.no === chosen);
  const planned = all.find((c) => c.no === chosen);
  const evidence = useEvidence(piece, row ? row.no : null, plan.number).data ?? null;
  const set = useBench((s) => s.set);
  useEffect(() => {
    set({ evidence });
    return () => set({ evidence: null });
  }, [evidence, set]);
  const save = (based: PlanView, rows: CharacteristicPlan[]) =>
    edit.mutate(
      { basedOn: based.number, plan: { ...based.plan, characteristics: rows } },
      { onSettled: () => setEditing(null) },
    );
  return (
    <Worksheet
      title="Evaluate"
      lead={row ? `Characteristic ${row.no}: ${row.name}` : "Pick a row of the ledger to see its evidence."}
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
          <Button disabled={busy} onClick={() => setEditing({ row: null, plan })}>
            Add characteristic
          </Button>
        </>
      }
    >
      {piece.run?.stale && (
        <Attention>
          The plan, the nominal or the scan changed since this was evaluated. Evaluate again: only what is out of date
          is done.
        </Attention>
      )}
      {row && <Result row={row} evidence={evidence} />}
      {planned && (
        <div className="flex gap-2">
          <Button disabled={busy} onClick={() => setEditing({ row: planned, plan })}>
            Edit
          </Button>
          <Button
            disabled={busy}
            onClick={() =>
              save(
                plan,
                all.filter((c) => c.no !== planned.no),
              )
            }
          >
            Remove
          </Button>
        </div>
      )}
      <Conditions
        plan={plan}
        disabled={busy || edit.isPending}
        onChange={(conditions) => edit.mutate({ basedOn: plan.number, plan: { ...plan.plan, ...conditions } })}
      />
      <Rule
        plan={plan}
        disabled={busy || edit.isPending}
        onChange={(decision) => edit.mutate({ basedOn: plan.number, plan: { ...plan.plan, decision } })}
      />
      {editing !== null && (
        <CharacteristicForm
          plan={editing.plan.plan}
          start={editing.row}
          onClose={() => setEditing(null)}
          onSave={(made) => {
            const rows = editing.plan.plan.characteristics ?? [];
            save(editing.plan, editing.row ? rows.map((c) => (c.no === editing.row!.no ? made : c)) : [...rows, made]);
          }}
        />
      )}
    </Worksheet>
  );
}

function Result({ row, evidence }: { row: CharacteristicView; evidence: Evidence | null }) {
  const d = row.decimals;
  const unit = row.unit;
  return (
    <Block title={words(row.kind)}>
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
          row.upperLimit !== null && ["upper limit", `${fixed(row.upperLimit, d)} ${unit}`],
          ["expanded uncertainty U, 95 %", `${fixed(row.uncertainty, d + 1)} ${unit}`],
          row.beyond > 0 && ["beyond the limit by", `${fixed(row.beyond, d)} ${unit}`],
          ["points used", count(row.points)],
          row.coverage > 0 && ["measured share", percent(row.coverage)],
        ]}
      />
      {row.budget.length > 0 && <Budget row={row} />}
      <p className="mt-2">{row.method}</p>
      {evidence && <p className="mt-1 text-xs text-soft">{marks(evidence)}</p>}
      {row.remark && <p className="mt-1 text-brass">{row.remark}</p>}
    </Block>
  );
}

/** The legend of what the stage marks. */
function marks({ used, leftOut, unmatched, missing }: Evidence): string {
  const kinds: [number, string][] = [
    [used.length, "points used (dots)"],
    [leftOut.length, "left out (rings)"],
    [unmatched.length, "without counterpart (crosses)"],
    [missing.length / 3, "places not measured (squares)"],
  ];
  const said = kinds.filter(([n]) => n > 0).map(([n, what]) => `${count(n)} ${what}`);
  return said.length > 0 ? `On the stage: ${said.join(", ")}.` : "";
}

/** What the uncertainty is made of: standard uncertainties and their shares of the variance. */
function Budget({ row }: { row: CharacteristicView }) {
  const variance = row.budget.reduce((sum, c) => sum + c.sigma ** 2, 0);
  return (
    <table className="mt-2 w-full text-xs">
      <caption className="text-left text-soft">What U is made of, as standard uncertainties</caption>
      <tbody>
        {row.budget.map((c) => (
          <tr key={c.source} className="border-t border-line">
            <td className="py-0.5 pr-2">{c.source}</td>
            <td className="num text-right whitespace-nowrap">
              {fixed(c.sigma, row.decimals + 2)} {row.unit}
            </td>
            <td className="num w-16 pl-2 text-right whitespace-nowrap text-soft">{percent(c.sigma ** 2 / variance)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

const rules = {
  "iso-14253-1": "95 % conformance probability (ISO 14253-1:2017)",
  "guard-band": "guard bands of a chosen width",
  simple: "simple acceptance",
};

/** The plan's decision rule, in the words that the report prints, and the choice of another. */
function Rule({
  plan,
  disabled,
  onChange,
}: {
  plan: PlanView;
  disabled: boolean;
  onChange: (decision: NonNullable<PlanView["plan"]["decision"]>) => void;
}) {
  const decision = plan.plan.decision ?? { rule: "iso-14253-1", guardFactor: 1 };
  return (
    <Block title="Decision rule">
      <div className="grid grid-cols-[1fr_5.5rem] gap-2">
        <Field label="Rule">
          <Select
            value={decision.rule}
            disabled={disabled}
            onChange={(e) => onChange({ ...decision, rule: e.target.value })}
          >
            {Object.entries(rules).map(([rule, said]) => (
              <option key={rule} value={rule}>
                {said}
              </option>
            ))}
          </Select>
        </Field>
        {decision.rule === "guard-band" && (
          <Field label="Width, U">
            <Input
              type="number"
              min={0}
              step="any"
              disabled={disabled}
              defaultValue={decision.guardFactor}
              onBlur={(e) => {
                const guardFactor = Number(e.target.value);
                if (guardFactor !== decision.guardFactor) {
                  onChange({ ...decision, guardFactor });
                }
              }}
            />
          </Field>
        )}
      </div>
      <p className="mt-2 text-xs text-soft">
        {plan.decision.words}
        {plan.decision.factor > 0 && " (shaded in the zone bars); between them the verdict is not proven"}.
      </p>
    </Block>
  );
}
