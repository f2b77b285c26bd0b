import type { AlignPlan, InspectionPlan } from "../../api/client";
import { planFeatures } from "../../plan/features";
import { Choice } from "../../ui/Choice";
import { Field } from "../../ui/parts";
import type { MethodPlan, To } from "./methods";

/** Places that the origin can lie on at once: three planes meet in a point. */
const mostOrigins = 3;

interface Props {
  align: MethodPlan<"axis-system">;
  plan: InspectionPlan;
  disabled: boolean;
  onChange: To;
}

/** The features that an axis system is laid through. */
export function AxisPicks({ align, plan, disabled, onChange }: Props) {
  const features = planFeatures(plan).map((f) => ({ value: f.id, name: f.name }));
  const origin = align.origin ?? [];
  const put = (change: object) => onChange((a) => ({ ...a, ...change }) as AlignPlan);
  const one = (label: string, key: "first" | "second") => (
    <Field label={label}>
      <Choice value={align[key] ?? ""} disabled={disabled} options={features} onChange={(id) => put({ [key]: id })} />
    </Field>
  );
  if (features.length === 0) {
    return <p className="text-xs text-soft">The plan has no feature yet; make some on the Features station.</p>;
  }

  return (
    <>
      {one("First axis along", "first")}
      {one("Second axis towards", "second")}
      {Array.from({ length: Math.min(origin.length + 1, mostOrigins) }, (_, i) => (
        <Field key={i} label={i === 0 ? "Origin on" : "and on"}>
          <Choice
            value={origin[i] ?? ""}
            disabled={disabled}
            options={[...(i > 0 ? [{ value: "", name: "nothing more" }] : []), ...features]}
            onChange={(id) => put({ origin: [...origin.slice(0, i), id, ...origin.slice(i + 1)].filter(Boolean) })}
          />
        </Field>
      ))}
    </>
  );
}
