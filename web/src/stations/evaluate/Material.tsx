import type { CharacteristicPlan, InspectionPlan, Schemas } from "../../api/client";
import { datumsOf, featuresOf, materialLimits, sizeLimits, valueOf } from "../../plan/characteristics";
import { planFeatures } from "../../plan/features";
import { Choice, namedOptions, type Option } from "../../ui/Choice";
import { NumberField } from "../../ui/NumberField";
import { Field } from "../../ui/parts";

interface Props {
  plan: InspectionPlan;
  nominal: Schemas["NominalView"] | null;
  characteristic: CharacteristicPlan;
  disabled: boolean;
  onChange: (change: Record<string, unknown>) => void;
}

type Limit = keyof typeof materialLimits;

/** Whether the tolerance grows with the size of the feature, and from which limit of it. */
export function Material({ plan, nominal, characteristic: c, disabled, onChange }: Props) {
  const material = valueOf(c, "material") as Schemas["MaterialRequirement"] | null | undefined;
  const sizeAt = (limit: Limit) => limitOf(plan, nominal, featuresOf(c)[0], limit === "maximum") ?? material?.size ?? 1;
  return (
    <AtSize
      label="Material requirement"
      value={(material?.limit ?? "none") as Limit}
      options={namedOptions(materialLimits)}
      size={material?.size}
      disabled={disabled}
      onChoose={(limit) => onChange({ material: limit === "none" ? null : { limit, size: sizeAt(limit) } })}
      onSize={(size) => onChange({ material: { ...material, size } })}
    />
  );
}

/** Which datum is taken at its maximum material boundary, within which the part may move. */
export function Boundary({ plan, nominal, characteristic: c, disabled, onChange }: Props) {
  const boundary = valueOf(c, "boundary") as Schemas["DatumBoundary"] | null | undefined;
  const sizeOf = (label: string) =>
    limitOf(plan, nominal, plan.datums?.find((d) => d.label === label)?.features[0], true) ?? boundary?.size ?? 1;
  const later = datumsOf(c).slice(1);
  return (
    <AtSize
      label="Datum at its boundary (M)"
      value={boundary?.datum ?? ""}
      options={[{ value: "", name: "none" }, ...later.map((value) => ({ value }))]}
      size={boundary?.size}
      disabled={disabled}
      onChoose={(datum) => onChange({ boundary: datum === "" ? null : { datum, size: sizeOf(datum) } })}
      onSize={(size) => onChange({ boundary: { ...boundary, size } })}
    />
  );
}

/** A choice that, once made, holds at a size. */
function AtSize<T extends string>({
  label,
  value,
  options,
  size,
  disabled,
  onChoose,
  onSize,
}: {
  label: string;
  value: T;
  options: Option<T>[];
  size: number | undefined;
  disabled: boolean;
  onChoose: (value: T) => void;
  onSize: (size: number) => void;
}) {
  return (
    <div className="grid grid-cols-[1fr_116px] gap-2">
      <Field label={label}>
        <Choice value={value} disabled={disabled} options={options} onChange={onChoose} />
      </Field>
      {size !== undefined && (
        <NumberField
          label="At size, mm"
          value={size}
          min={0}
          disabled={disabled}
          onChange={(s) => s !== null && onSize(s)}
        />
      )}
    </div>
  );
}

/** The limit of a feature's size with most material, or with least: of a hole the smaller one is that of most. */
function limitOf(plan: InspectionPlan, nominal: Props["nominal"], feature: string | undefined, most: boolean) {
  const limits = feature === undefined ? null : sizeLimits(plan, feature);
  const face = planFeatures(plan).find((f) => f.id === feature)?.faces[0];
  const hole = face !== undefined && nominal?.faces[face]?.internal;
  return limits && limits[hole === most ? 0 : 1];
}
