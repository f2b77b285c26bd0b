import type { InspectionPlan, PlanView } from "../../api/client";
import { standards } from "../../plan/characteristics";
import { Choice, namedOptions } from "../../ui/Choice";
import { Field } from "../../ui/parts";
import { Block } from "../../ui/Worksheet";
import { GeneralTolerancesEditor } from "./GeneralTolerances";

const units = { mm: { name: "mm" }, inch: { name: "inch" } } as const;

interface Props {
  plan: PlanView;
  disabled: boolean;
  onChange: (change: (plan: InspectionPlan) => InspectionPlan) => void;
}

/** By which standards the drawing is read where a row does not say, and in which unit its numbers are shown. */
export function DrawingRules({ plan, disabled, onChange }: Props) {
  return (
    <Block title="Drawing">
      <div className="grid grid-cols-[1fr_88px] gap-2">
        <Field label="Read by">
          <Choice
            value={plan.plan.standard ?? "iso"}
            disabled={disabled}
            options={namedOptions(standards)}
            onChange={(standard) => onChange((p) => ({ ...p, standard }))}
          />
        </Field>
        <Field label="Lengths in">
          <Choice
            value={plan.plan.shown ?? "mm"}
            disabled={disabled}
            options={namedOptions(units)}
            onChange={(shown) => onChange((p) => ({ ...p, shown }))}
          />
        </Field>
      </div>
      <p className="mt-2 text-xs text-soft">{plan.standard}.</p>
      <GeneralTolerancesEditor
        value={plan.plan.general ?? null}
        inUse={(plan.plan.characteristics ?? []).filter((c) => c.general).length}
        disabled={disabled}
        onChange={(general) => onChange((p) => ({ ...p, general }))}
      />
    </Block>
  );
}
