import { useState } from "react";
import type { InspectionPlan, PlanView } from "../../api/client";
import { Button, Dialog, Field, Input } from "../../ui/parts";
import { Block } from "../../ui/Worksheet";

type Measuring = Required<Pick<InspectionPlan, "device" | "temperature">>;

interface Props {
  plan: PlanView;
  disabled: boolean;
  onChange: (conditions: Measuring) => void;
}

/** What is stated of the device and of the part's temperature: both enter every uncertainty. */
export function Conditions({ plan, disabled, onChange }: Props) {
  const [editing, setEditing] = useState(false);
  const measuring: Measuring = {
    device: plan.plan.device ?? { lengthError: 0.01, lengthErrorPerMetre: 0, probingError: 0 },
    temperature: plan.plan.temperature ?? { expansion: 0, expansionUncertainty: 0, deviation: 0, uncertainty: 0 },
  };
  return (
    <Block title="Device and temperature">
      <p className="text-xs text-soft first-letter:uppercase">{plan.conditions}.</p>
      <Button className="mt-2" disabled={disabled} onClick={() => setEditing(true)}>
        Change
      </Button>
      {editing && (
        <ConditionsForm
          start={measuring}
          onClose={() => setEditing(false)}
          onSave={(made) => {
            onChange(made);
            setEditing(false);
          }}
        />
      )}
    </Block>
  );
}

function ConditionsForm({
  start,
  onClose,
  onSave,
}: {
  start: Measuring;
  onClose: () => void;
  onSave: (made: Measuring) => void;
}) {
  const [{ device, temperature }, put] = useState(start);
  const number = (label: string, value: number, set: (value: number) => void, min: number | undefined = 0) => (
    <Field label={label}>
      <Input
        type="number"
        step="any"
        min={min}
        required
        defaultValue={value}
        onChange={(e) => set(Number(e.target.value))}
      />
    </Field>
  );
  const ofDevice = (change: Partial<typeof device>) => put({ device: { ...device, ...change }, temperature });
  const ofPart = (change: Partial<typeof temperature>) => put({ device, temperature: { ...temperature, ...change } });
  return (
    <Dialog open title="Device and temperature" onClose={onClose}>
      <form
        className="space-y-3"
        onSubmit={(e) => {
          e.preventDefault();
          onSave({ device, temperature });
        }}
      >
        <div className="grid grid-cols-3 gap-2">
          {number("Length error, mm", device.lengthError, (v) => ofDevice({ lengthError: v }))}
          {number("and mm per metre", device.lengthErrorPerMetre, (v) => ofDevice({ lengthErrorPerMetre: v }))}
          {number("Probing error, mm", device.probingError, (v) => ofDevice({ probingError: v }))}
        </div>
        <div className="grid grid-cols-2 gap-2">
          {number("Expansion of the part, 10⁻⁶/K", temperature.expansion, (v) => ofPart({ expansion: v }))}
          {number("its standard uncertainty", temperature.expansionUncertainty, (v) =>
            ofPart({ expansionUncertainty: v }),
          )}
          {number("Temperature less 20 °C, K", temperature.deviation, (v) => ofPart({ deviation: v }), undefined)}
          {number("its standard uncertainty, K", temperature.uncertainty, (v) => ofPart({ uncertainty: v }))}
        </div>
        <p className="text-xs text-soft">
          Sizes and distances are corrected to 20 °C; for zones the growth stays in their uncertainty. An expansion of 0
          leaves temperature out.
        </p>
        <div className="flex justify-end gap-2">
          <Button type="button" onClick={onClose}>
            Cancel
          </Button>
          <Button tone="primary" type="submit">
            Save
          </Button>
        </div>
      </form>
    </Dialog>
  );
}
