import type { CharacteristicKind, CharacteristicPlan, InspectionPlan } from "../../api/client";
import {
  changed,
  characteristicKinds,
  datumsOf,
  facesOf,
  featuresOf,
  kindOf,
  valueOf,
} from "../../plan/characteristics";
import { planFeatures } from "../../plan/features";
import { StandsIn } from "../../plan/StandsIn";
import { FaceChoice } from "../../stage/FaceChoice";
import { pickedFaces } from "../../stage/picking";
import { NumberField, TextField } from "../../ui/NumberField";
import { Button, Check, Field } from "../../ui/parts";
import { Block } from "../../ui/Worksheet";
import { Choice } from "../../ui/Choice";

interface Props {
  plan: InspectionPlan;
  characteristic: CharacteristicPlan;
  disabled: boolean;
  onChange: (change: (c: CharacteristicPlan) => CharacteristicPlan) => void;
  onRemove: () => void;
}

const rank = ["Primary", "Secondary", "Tertiary"];

/** One row of the drawing, edited beside the part: each change is kept at once and can be undone. */
export function CharacteristicEditor({ plan, characteristic: c, disabled, onChange, onRemove }: Props) {
  const kind = kindOf(c.kind);
  const put = (change: Record<string, unknown>) => onChange((now) => changed(now, change));
  const number = (label: string, key: string, options: { empty?: string; min?: number; max?: number } = {}) => (
    <NumberField
      label={label}
      value={valueOf(c, key) as number | null | undefined}
      onChange={(v) => put({ [key]: v })}
      disabled={disabled}
      {...options}
    />
  );
  const alike = (Object.keys(characteristicKinds) as CharacteristicKind[]).filter((k) => {
    const other = kindOf(k);
    return other.of === kind.of && other.limits === kind.limits && other.unit === kind.unit;
  });
  const features = planFeatures(plan);
  return (
    <Block title="What is asked">
      <div className="space-y-2">
        <TextField label="Name" value={c.name} onChange={(name) => put({ name })} disabled={disabled} />
        <div className="grid grid-cols-[1fr_76px] gap-2">
          <Field label="Kind">
            <Choice
              value={c.kind}
              disabled={disabled || alike.length === 1}
              options={alike.map((k) => ({ value: k, name: characteristicKinds[k].name }))}
              onChange={(k) => onChange((now) => asKind(now, k))}
            />
          </Field>
          <NumberField
            label="No."
            value={c.no}
            min={1}
            onChange={(no) => no !== null && put({ no: Math.round(no) })}
            disabled={disabled}
          />
        </div>
        {kind.of === "faces" ? (
          <FaceChoice
            faces={facesOf(c, features)}
            disabled={disabled}
            onToggle={(face) => onChange((now) => withFace(now, face))}
          />
        ) : kind.of === "part" || kind.of === "parts" ? (
          <p>
            In the section <span className="font-semibold">{valueOf(c, "section") as string}</span>, of{" "}
            {kind.of === "part" ? "an arc" : "two of its parts"} picked on its sheet (Compare, Sections).
          </p>
        ) : (
          <div className={kind.of === 2 ? "grid grid-cols-2 gap-2" : ""}>
            {Array.from({ length: kind.of }, (_, i) => (
              <Field key={i} label={kind.of === 1 ? "Feature" : i === 0 ? "From" : "To"}>
                <Choice
                  value={featuresOf(c)[i] ?? ""}
                  disabled={disabled}
                  options={features.map((f) => ({ value: f.id, name: f.name }))}
                  onChange={(id) => put({ features: chosenAt(featuresOf(c), i, id) })}
                />
              </Field>
            ))}
          </div>
        )}
        {kind.limits === "deviations" ? (
          <div className="grid grid-cols-3 gap-2">
            {number(`Nominal, ${kind.unit}`, "nominal")}
            {number("Lower deviation", "lower", { empty: "none" })}
            {number("Upper deviation", "upper", { empty: "none" })}
          </div>
        ) : (
          <div className="grid grid-cols-2 gap-2">
            {number("Tolerance, mm", "tolerance", { min: 0 })}
            {kind.filter && number("Gaussian filter, mm", "filter", { empty: "none", min: 0 })}
          </div>
        )}
        {kind.datums && (
          <Datums
            of={datumsOf(c)}
            all={(plan.datums ?? []).map((d) => d.label)}
            disabled={disabled}
            onChange={(datums) => put({ datums, alignment: datums.length > 0 ? null : c.alignment })}
          />
        )}
        {datumsOf(c).length === 0 && (
          <StandsIn plan={plan} value={c.alignment} disabled={disabled} onChange={(alignment) => put({ alignment })} />
        )}
        {kind.switches.map((s) => (
          <Check
            key={s.key}
            checked={valueOf(c, s.key) === true}
            disabled={disabled}
            onChange={(on) => put({ [s.key]: on })}
          >
            {s.label}
          </Check>
        ))}
        {number("Least share measured, 0 to 1", "leastCoverage", { empty: "usual for the kind", min: 0, max: 1 })}
        <Button tone="quiet" className="text-bad" disabled={disabled} onClick={onRemove}>
          Remove from the plan
        </Button>
      </div>
    </Block>
  );
}

/** A profile over one face more or less; over none nothing could be judged, so the last one stays. */
function withFace(c: CharacteristicPlan, face: number): CharacteristicPlan {
  const faces = pickedFaces(facesOf(c, []), face, true);
  return faces.length > 0 ? changed(c, { faces }) : c;
}

/** A list with one place filled anew, or its next one. */
const chosenAt = (list: string[], place: number, id: string): string[] => [
  ...list.slice(0, place),
  id,
  ...list.slice(place + 1),
];

/** The same asked as another kind that takes the same. */
function asKind(c: CharacteristicPlan, kind: CharacteristicKind): CharacteristicPlan {
  const to = kindOf(kind);
  const keys = [
    ...[
      "no",
      "name",
      "alignment",
      "leastCoverage",
      "features",
      "faces",
      "section",
      "parts",
      "nominal",
      "lower",
      "upper",
      "tolerance",
    ],
    ...(to.datums ? ["datums"] : []),
    ...(to.filter ? ["filter"] : []),
    ...to.switches.map((s) => s.key),
  ];
  const kept = keys.map((k) => [k, valueOf(c, k)] as const).filter(([, v]) => v !== undefined);
  return { kind, ...Object.fromEntries(kept) } as CharacteristicPlan;
}

/** Datums by rank; the next is asked for once the one before is chosen. */
function Datums({
  of,
  all,
  disabled,
  onChange,
}: {
  of: string[];
  all: string[];
  disabled: boolean;
  onChange: (datums: string[]) => void;
}) {
  if (all.length === 0) {
    return <p className="text-xs text-soft">The plan has no datum yet; make one on the Features station.</p>;
  }

  return (
    <div className="grid grid-cols-3 gap-2">
      {rank.slice(0, Math.min(rank.length, of.length + 1)).map((name, i) => (
        <Field key={name} label={`${name} datum`}>
          <Choice
            value={of[i] ?? ""}
            disabled={disabled}
            options={[
              { value: "", name: "none" },
              ...all.filter((l) => !of.includes(l) || l === of[i]).map((value) => ({ value })),
            ]}
            onChange={(l) => onChange(l === "" ? of.slice(0, i) : [...of.slice(0, i), l, ...of.slice(i + 1)])}
          />
        </Field>
      ))}
    </div>
  );
}
