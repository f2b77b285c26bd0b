import type { CharacteristicKind, CharacteristicPlan, InspectionPlan, Schemas } from "../../api/client";
import {
  changed,
  axisKinds,
  axisOf,
  characteristicKinds,
  datumsOf,
  facesOf,
  featuresOf,
  kindOf,
  kindsLike,
  sizeKinds,
  standards,
  valueOf,
} from "../../plan/characteristics";
import { planFeatures } from "../../plan/features";
import { StandsIn } from "../../plan/StandsIn";
import { FaceChoice } from "../../stage/FaceChoice";
import { pickedFaces } from "../../stage/picking";
import { NumberField, TextField } from "../../ui/NumberField";
import { writing } from "../../ui/lengths";
import { Button, Check, Field } from "../../ui/parts";
import { Block } from "../../ui/Worksheet";
import { Choice, namedOptions } from "../../ui/Choice";
import { AsDrawnField } from "./AsDrawnField";
import { Boundary, Material } from "./Material";

interface Props {
  partId: string;
  plan: InspectionPlan;
  /** As its drawing writes it; null: not known yet. */
  drawn: string | null;
  nominal: Schemas["NominalView"] | null;
  characteristic: CharacteristicPlan;
  disabled: boolean;
  onChange: (change: (c: CharacteristicPlan) => CharacteristicPlan) => void;
  onRemove: () => void;
}

const rank = ["Primary", "Secondary", "Tertiary"];

/** One row of the drawing, edited beside the part: each change is kept at once and can be undone. */
export function CharacteristicEditor(props: Props) {
  const { partId, plan, drawn, nominal, characteristic: c, disabled, onChange, onRemove } = props;
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
  const unit = writing(kind.unit, plan.shown);
  const length = (label: string, key: string, options: { empty?: string; min?: number } = {}) => {
    const value = valueOf(c, key) as number | null | undefined;
    return (
      <NumberField
        label={`${label}, ${unit.sign}`}
        value={value == null ? value : Number((value / unit.per).toPrecision(12))}
        onChange={(v) =>
          // Limits that are typed are the row's own.
          put({
            [key]: v === null ? null : Number((v * unit.per).toPrecision(12)),
            ...(["lower", "upper", "tolerance"].includes(key) ? { general: false } : {}),
          })
        }
        disabled={disabled}
        {...options}
      />
    );
  };
  const alike = kindsLike(c.kind);
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
        {kind.of === "cut" && (
          <Field label="Section">
            <Choice
              value={valueOf(c, "section") as string}
              disabled={disabled}
              options={(plan.compare?.sections ?? []).map((s) => ({ value: s.name }))}
              onChange={(section) => put({ section })}
            />
          </Field>
        )}
        {kind.of === "faces" || kind.of === "cut" ? (
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
          <div className={kind.of === 2 ? "grid grid-cols-2 gap-2" : "space-y-2"}>
            {labels(kind.of, featuresOf(c).length).map((label, i) => (
              <Field key={label} label={label}>
                <Choice
                  value={featuresOf(c)[i] ?? ""}
                  disabled={disabled}
                  options={[
                    ...(i > 0 && kind.of !== 2 ? [{ value: "", name: "none" }] : []),
                    ...features.map((f) => ({ value: f.id, name: f.name })),
                  ]}
                  onChange={(id) => put({ features: chosenAt(featuresOf(c), i, id) })}
                />
              </Field>
            ))}
          </div>
        )}
        {drawn !== null && (
          <AsDrawnField
            partId={partId}
            characteristic={c}
            text={drawn}
            disabled={disabled}
            onChange={(to) => onChange(() => to)}
          />
        )}
        {kind.limits === "deviations" ? (
          <div className="grid grid-cols-3 items-end gap-2">
            {length("Nominal", "nominal")}
            {length("Lower deviation", "lower", { empty: "none" })}
            {length("Upper deviation", "upper", { empty: "none" })}
          </div>
        ) : (
          <div className="grid grid-cols-2 gap-2">
            {length("Tolerance", "tolerance", { min: 0 })}
            {kind.filter && number("Gaussian filter, mm", "filter", { empty: "none", min: 0 })}
            {kind.zoneOffset && length("Zone out of the material (UZ)", "zoneOffset", { empty: "on the nominal" })}
            {kind.axis && length("Projected zone (P)", "projectedBy", { empty: "none", min: 0 })}
          </div>
        )}
        {plan.general && (
          <Check checked={c.general ?? false} disabled={disabled} onChange={(general) => put({ general })}>
            Limits of the general tolerances
          </Check>
        )}
        {kind.sizes && (
          <Field label="Size">
            <Choice
              value={(valueOf(c, "size") as keyof typeof sizeKinds | null | undefined) ?? "standard"}
              disabled={disabled}
              options={namedOptions({ ...standards[plan.standard ?? "iso"].size, ...sizeKinds })}
              onChange={(size) => put({ size: size === "standard" ? null : size })}
            />
          </Field>
        )}
        {kind.axis && (
          <Field label="Axis">
            <Choice
              value={axisOf(valueOf(c, "straightAxis") as boolean | null | undefined)}
              disabled={disabled}
              options={namedOptions({ ...standards[plan.standard ?? "iso"].axis, ...axisKinds })}
              onChange={(axis) => put({ straightAxis: axis === "standard" ? null : axis === "straight" })}
            />
          </Field>
        )}
        {kind.datums && (
          <Datums
            of={datumsOf(c)}
            all={(plan.datums ?? []).map((d) => d.label)}
            disabled={disabled}
            onChange={(datums) =>
              put({
                datums,
                alignment: datums.length > 0 ? null : c.alignment,
                ...(kind.boundary ? { boundary: null } : {}),
              })
            }
          />
        )}
        {kind.material && (
          <Material plan={plan} nominal={nominal} characteristic={c} disabled={disabled} onChange={put} />
        )}
        {kind.boundary && datumsOf(c).length > 1 && (
          <Boundary plan={plan} nominal={nominal} characteristic={c} disabled={disabled} onChange={put} />
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

/** A profile over one face more or less; of a surface over none nothing could be judged, so the last one stays. */
function withFace(c: CharacteristicPlan, face: number): CharacteristicPlan {
  const faces = pickedFaces(facesOf(c, []), face, true);
  return faces.length > 0 || c.kind === "profile-of-a-line" ? changed(c, { faces }) : c;
}

/** What the places for features are called: a pair has room for a second, a pattern for one more. */
function labels(of: ReturnType<typeof kindOf>["of"], chosen: number): string[] {
  if (of === 2) {
    return ["From", "To"];
  }

  const room = of === "pair" ? 2 : of === "many" ? chosen + 1 : 1;
  return Array.from({ length: room }, (_, i) =>
    i === 0 ? "Feature" : of === "pair" ? "Opposite to it" : i < chosen ? `And ${i + 1}` : "And one more",
  );
}

/** A list with one place filled anew, its next one, or one taken out. */
const chosenAt = (list: string[], place: number, id: string): string[] => [
  ...list.slice(0, place),
  ...(id === "" ? [] : [id]),
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
    ...(to.material ? ["material"] : []),
    ...(to.boundary ? ["boundary"] : []),
    ...(to.zoneOffset ? ["zoneOffset"] : []),
    ...(to.sizes ? ["size"] : []),
    ...(to.axis ? ["straightAxis", "projectedBy"] : []),
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
