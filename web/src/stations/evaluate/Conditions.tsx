import type { InspectionPlan, PlanView } from "../../api/client";
import { NumberField } from "../../ui/NumberField";
import { Block } from "../../ui/Worksheet";

type Measuring = Required<Pick<InspectionPlan, "device" | "temperature">>;

interface Props {
  plan: PlanView;
  disabled: boolean;
  onChange: (change: (plan: InspectionPlan) => InspectionPlan) => void;
}

const measuringOf = (plan: InspectionPlan): Measuring => ({
  device: plan.device ?? { lengthError: 0.01, lengthErrorPerMetre: 0, probingError: 0 },
  temperature: plan.temperature ?? { expansion: 0, expansionUncertainty: 0, deviation: 0, uncertainty: 0 },
});

/** What is stated of the device and of the part's temperature: both enter every uncertainty. */
export function Conditions({ plan, disabled, onChange }: Props) {
  const { device, temperature } = measuringOf(plan.plan);
  const ofDevice = (key: keyof Measuring["device"], label: string) => (
    <NumberField
      label={label}
      value={device[key]}
      min={0}
      disabled={disabled}
      onChange={(v) => onChange((p) => ({ ...p, device: { ...measuringOf(p).device, [key]: v } }))}
    />
  );
  const ofPart = (key: keyof Measuring["temperature"], label: string, min?: number) => (
    <NumberField
      label={label}
      value={temperature[key]}
      min={min}
      disabled={disabled}
      onChange={(v) => onChange((p) => ({ ...p, temperature: { ...measuringOf(p).temperature, [key]: v } }))}
    />
  );
  return (
    <Block title="Device and temperature">
      <details>
        <summary className="cursor-pointer text-xs text-soft first-letter:uppercase">{plan.conditions}.</summary>
        <div className="mt-2 space-y-2">
          <div className="grid grid-cols-3 items-end gap-2">
            {ofDevice("lengthError", "Length error, mm")}
            {ofDevice("lengthErrorPerMetre", "and mm per metre")}
            {ofDevice("probingError", "Probing error, mm")}
          </div>
          <div className="grid grid-cols-2 items-end gap-2">
            {ofPart("expansion", "Expansion, 10⁻⁶/K", 0)}
            {ofPart("expansionUncertainty", "its standard uncertainty", 0)}
            {ofPart("deviation", "Temperature less 20 °C, K")}
            {ofPart("uncertainty", "its standard uncertainty, K", 0)}
          </div>
          <p className="text-xs text-soft">
            Sizes and distances are corrected to 20 °C; for zones the growth stays in their uncertainty. An expansion of
            0 leaves temperature out.
          </p>
        </div>
      </details>
    </Block>
  );
}
