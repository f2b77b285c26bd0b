import type { DecisionRule, InspectionPlan, PlanView } from "../../api/client";
import { NumberField } from "../../ui/NumberField";
import { Check, Field } from "../../ui/parts";
import { Block } from "../../ui/Worksheet";
import { Choice, namedOptions } from "../../ui/Choice";

/** Every decision rule as it begins; the compiler finds one that is missing. */
const rules: { readonly [R in DecisionRule["rule"]]: { name: string; start: Extract<DecisionRule, { rule: R }> } } = {
  "iso-14253-1": { name: "95 % conformance probability (ISO 14253-1:2017)", start: { rule: "iso-14253-1" } },
  "guard-band": { name: "Guard bands of a chosen width", start: { rule: "guard-band", guardFactor: 1 } },
  simple: { name: "Simple acceptance", start: { rule: "simple" } },
};

interface Props {
  plan: PlanView;
  disabled: boolean;
  onChange: (change: (plan: InspectionPlan) => InspectionPlan) => void;
}

/** The plan's decision rule, in the words that the report prints, and the choice of another. */
export function DecisionEditor({ plan, disabled, onChange }: Props) {
  const decision = plan.plan.decision ?? rules["iso-14253-1"].start;
  const put = (to: DecisionRule) => onChange((p) => ({ ...p, decision: to }));
  return (
    <Block title="Decision rule">
      <div className={decision.rule === "guard-band" ? "grid grid-cols-[1fr_5.5rem] gap-2" : ""}>
        <Field label="Rule">
          <Choice
            value={decision.rule}
            disabled={disabled}
            options={namedOptions(rules)}
            onChange={(rule) => put(rules[rule].start)}
          />
        </Field>
        {decision.rule === "guard-band" && (
          <NumberField
            label="Width, U"
            value={decision.guardFactor}
            min={0}
            disabled={disabled}
            onChange={(guardFactor) => guardFactor !== null && put({ rule: "guard-band", guardFactor })}
          />
        )}
      </div>
      <p className="mt-2 text-xs text-soft">
        {plan.decision.words}
        {plan.decision.factor > 0 && " (shaded in the zone bars); between them the verdict is not proven"}.
      </p>
      <div className="mt-2">
        <Check
          checked={plan.plan.otherWays ?? false}
          disabled={disabled}
          onChange={(otherWays) => onChange((p) => ({ ...p, otherWays }))}
        >
          Try other ways on every piece: the ledger and the report say where a verdict rests on a choice
        </Check>
      </div>
    </Block>
  );
}
