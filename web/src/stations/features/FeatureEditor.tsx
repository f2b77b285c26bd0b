import type { FeaturePlan, InspectionPlan } from "../../api/client";
import { usersOf } from "../../plan/features";
import { StandsIn } from "../../plan/StandsIn";
import { fixed } from "../../ui/format";
import { NumberField, TextField } from "../../ui/NumberField";
import { Button, Field } from "../../ui/parts";
import { Choice } from "../../ui/Choice";
import { Targets } from "./Targets";

export type CriterionName = NonNullable<FeaturePlan["criterion"]>;

const criteria: Record<string, CriterionName[]> = {
  plane: ["least-squares", "minimum-zone", "outer-tangent"],
  cylinder: ["least-squares", "minimum-zone", "minimum-circumscribed", "maximum-inscribed"],
  sphere: ["least-squares", "minimum-zone", "minimum-circumscribed", "maximum-inscribed"],
};

export const criteriaOf = (kind: string): CriterionName[] => criteria[kind] ?? ["least-squares"];

interface Props {
  feature: FeaturePlan;
  kind: string;
  plan: InspectionPlan;
  disabled: boolean;
  /** Clicks on the stage add faces to it or take them away. */
  choosing: boolean;
  onChoose: (on: boolean) => void;
  onEdit: (to: (f: FeaturePlan) => FeaturePlan) => void;
  onChange: (change: (plan: InspectionPlan) => InspectionPlan) => void;
}

/** A feature of the plan: its name, how it is associated, and which points count. */
export function FeatureEditor({ feature: f, kind, plan, disabled, choosing, onChoose, onEdit, onChange }: Props) {
  const users = usersOf(f.id, plan);
  return (
    <div className="mb-3 space-y-2" data-testid="feature-editor">
      <TextField label="Name" value={f.name} disabled={disabled} onChange={(name) => onEdit((x) => ({ ...x, name }))} />
      {f.edgeOf == null ? (
        <Field label="Association criterion">
          <Choice
            value={f.criterion ?? "least-squares"}
            disabled={disabled}
            options={criteriaOf(kind).map((value) => ({ value, name: value.replaceAll("-", " ") }))}
            onChange={(criterion) => onEdit((x) => ({ ...x, criterion }))}
          />
        </Field>
      ) : (
        <>
          <p>Measured from the edge of face {f.edgeOf}, where the points of the sheet end.</p>
          <NumberField
            label="Points end before the edge by, mm"
            value={f.edgeLoss}
            empty="automatic: 0.22 of the spacing"
            min={0}
            disabled={disabled}
            onChange={(edgeLoss) => onEdit((x) => ({ ...x, edgeLoss }))}
          />
        </>
      )}
      <div className="grid grid-cols-2 gap-2">
        <NumberField
          label="Edge margin, mm"
          value={f.edgeMargin}
          empty="automatic"
          min={0}
          disabled={disabled}
          onChange={(edgeMargin) => onEdit((x) => ({ ...x, edgeMargin }))}
        />
        <NumberField
          label="Points within, mm"
          value={f.searchDistance ?? 1}
          min={0}
          disabled={disabled}
          onChange={(searchDistance) => onEdit((x) => ({ ...x, searchDistance: searchDistance ?? 1 }))}
        />
      </div>
      {f.region && <RegionNominal feature={f} disabled={disabled} onEdit={onEdit} />}
      {f.edgeOf == null && !f.region && <Targets feature={f} disabled={disabled} onEdit={onEdit} />}
      <StandsIn
        plan={plan}
        value={f.alignment}
        disabled={disabled}
        onChange={(alignment) => onEdit((x) => ({ ...x, alignment }))}
      />
      <div className="flex flex-wrap gap-2">
        <Button aria-pressed={choosing} disabled={disabled} onClick={() => onChoose(!choosing)}>
          {choosing ? "Done choosing" : "Choose faces"}
        </Button>
        <Button
          tone="quiet"
          className="text-bad"
          disabled={disabled || users.length > 0}
          title={users.length > 0 ? `Used by ${users.join(", ")}` : undefined}
          onClick={() => onChange((p) => ({ ...p, features: p.features?.filter((x) => x.id !== f.id) }))}
        >
          Remove
        </Button>
      </div>
      {users.length > 0 && <p className="text-xs text-soft">Used by {users.join(", ")}.</p>}
    </div>
  );
}

/** Of a region the size that counts as nominal: what a drawing would give. */
function RegionNominal({
  feature: f,
  disabled,
  onEdit,
}: Pick<Props, "disabled" | "onEdit"> & { feature: FeaturePlan }) {
  const { kind, numbers, at } = f.region!;
  // Place and axis come first; the radius of a round surface follows them.
  const size = kind === "cylinder" ? 6 : kind === "sphere" ? 3 : null;
  return (
    <>
      <p className="text-xs text-soft">
        A {kind} grown on the scan about {at.map((v) => fixed(v, 1)).join(" ")}; found again there on every piece.
      </p>
      {size !== null && (
        <NumberField
          label="Nominal diameter, mm"
          value={Math.round(2e6 * numbers[size]) / 1e6}
          min={0}
          disabled={disabled}
          onChange={(d) =>
            d !== null &&
            onEdit((x) => ({
              ...x,
              region: x.region && { ...x.region, numbers: x.region.numbers.map((v, i) => (i === size ? d / 2 : v)) },
            }))
          }
        />
      )}
    </>
  );
}
