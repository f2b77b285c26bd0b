import type { InspectionPlan } from "../api/client";
import { Choice } from "../ui/Choice";
import { Field } from "../ui/parts";
import { alignmentNames, ownAlignment } from "./alignments";

interface Props {
  plan: InspectionPlan;
  value: string | null | undefined;
  disabled?: boolean;
  onChange: (alignment: string | null) => void;
}

/** In which of the plan's alignments something stands; nothing where there is no choice. */
export function StandsIn({ plan, value, disabled, onChange }: Props) {
  const names = alignmentNames(plan);
  return names.length === 0 ? null : (
    <Field label="Stands in alignment">
      <Choice
        value={value ?? null}
        disabled={disabled}
        options={[{ value: null, name: ownAlignment }, ...names.map((name) => ({ value: name, name }))]}
        onChange={onChange}
      />
    </Field>
  );
}
