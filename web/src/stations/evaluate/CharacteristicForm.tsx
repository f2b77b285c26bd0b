import { useState } from "react";
import type { InspectionPlan } from "../../api/client";
import { words } from "../../ui/format";
import { Button, Dialog, Field, Input, Select } from "../../ui/parts";

export type CharacteristicPlan = NonNullable<InspectionPlan["characteristics"]>[number];

const dimensional = ["diameter", "width", "distance", "angle"];
const geometrical = ["flatness", "cylindricity", "parallelism", "perpendicularity", "position", "profile-of-a-surface"];
const withDatums = ["parallelism", "perpendicularity", "position", "profile-of-a-surface"];
const withAxis = ["parallelism", "perpendicularity", "position"];
const twoFeatures = ["width", "distance", "angle"];

interface Props {
  plan: InspectionPlan;
  start: CharacteristicPlan | null;
  onClose: () => void;
  onSave: (made: CharacteristicPlan) => void;
}

/** One row of the drawing. Only the fields that its kind has are shown. */
export function CharacteristicForm({ plan, start, onClose, onSave }: Props) {
  const features = plan.features ?? [];
  const next = 1 + Math.max(0, ...(plan.characteristics ?? []).map((c) => c.no));
  const [c, setC] = useState<CharacteristicPlan>(
    start ?? {
      no: next,
      name: "",
      kind: "diameter",
      features: features.slice(0, 1).map((f) => f.id),
      faces: [],
      datums: [],
    },
  );
  const put = (change: Partial<CharacteristicPlan>) => setC({ ...c, ...change });
  const number = (text: string) => (text.trim() === "" || !Number.isFinite(Number(text)) ? null : Number(text));
  const numeric = (label: string, key: "nominal" | "lower" | "upper" | "tolerance" | "filter" | "leastCoverage") => (
    <Field label={label}>
      <Input
        type="number"
        step="any"
        defaultValue={c[key] ?? ""}
        onChange={(e) => put({ [key]: number(e.target.value) })}
      />
    </Field>
  );
  const pick = (index: number, label: string) => (
    <Field label={label}>
      <Select
        value={c.features?.[index] ?? ""}
        onChange={(e) => {
          const chosen = [...(c.features ?? [])];
          chosen[index] = e.target.value;
          put({ features: chosen });
        }}
      >
        <option value="" disabled>
          choose
        </option>
        {features.map((f) => (
          <option key={f.id} value={f.id}>
            {f.name}
          </option>
        ))}
      </Select>
    </Field>
  );
  const isDimensional = dimensional.includes(c.kind);
  const isProfile = c.kind === "profile-of-a-surface";
  const two = twoFeatures.includes(c.kind);
  const complete =
    c.name.trim() !== "" &&
    (isProfile ? (c.faces?.length ?? 0) > 0 : (c.features ?? []).filter(Boolean).length >= (two ? 2 : 1)) &&
    (isDimensional ? c.nominal != null && (c.lower != null || c.upper != null) : (c.tolerance ?? 0) > 0);
  return (
    <Dialog open title={start ? `Characteristic ${c.no}` : "New characteristic"} onClose={onClose}>
      <form
        className="space-y-3"
        onSubmit={(e) => {
          e.preventDefault();
          onSave({
            ...c,
            features: isProfile ? [] : (c.features ?? []).slice(0, two ? 2 : 1),
            datums: withDatums.includes(c.kind) ? c.datums : [],
          });
        }}
      >
        <div className="grid grid-cols-[70px_1fr] gap-2">
          <Field label="No.">
            <Input type="number" min="1" value={c.no} onChange={(e) => put({ no: Number(e.target.value) })} />
          </Field>
          <Field label="Name">
            <Input value={c.name} autoFocus onChange={(e) => put({ name: e.target.value })} />
          </Field>
        </div>
        <Field label="Kind">
          <Select value={c.kind} onChange={(e) => put({ kind: e.target.value })}>
            {[...dimensional, ...geometrical].map((k) => (
              <option key={k} value={k}>
                {words(k)}
              </option>
            ))}
          </Select>
        </Field>
        {isProfile ? (
          <Field label="Faces" hint="Numbers of the nominal's faces, with commas.">
            <Input
              defaultValue={(c.faces ?? []).join(", ")}
              onChange={(e) =>
                put({
                  faces: e.target.value
                    .split(",")
                    .map((t) => Number(t.trim()))
                    .filter((n) => Number.isInteger(n) && n >= 0),
                })
              }
            />
          </Field>
        ) : (
          <div className="grid grid-cols-2 gap-2">
            {pick(0, two ? "From" : "Feature")}
            {two && pick(1, "To")}
          </div>
        )}
        {isDimensional ? (
          <div className="grid grid-cols-3 gap-2">
            {numeric(c.kind === "angle" ? "Nominal, °" : "Nominal, mm", "nominal")}
            {numeric("Lower deviation", "lower")}
            {numeric("Upper deviation", "upper")}
          </div>
        ) : (
          <div className="grid grid-cols-2 gap-2">
            {numeric("Tolerance, mm", "tolerance")}
            {numeric("Gaussian filter, mm (optional)", "filter")}
          </div>
        )}
        {c.kind === "width" && (
          <label className="flex items-center gap-2">
            <input type="checkbox" checked={c.globalSize} onChange={(e) => put({ globalSize: e.target.checked })} />
            Global size of the fitted planes (GG), not the two-point sizes (LP) of ISO 14405-1
          </label>
        )}
        {withAxis.includes(c.kind) && (
          <label className="flex items-center gap-2">
            <input type="checkbox" checked={c.straightAxis} onChange={(e) => put({ straightAxis: e.target.checked })} />
            Straight axis of the fitted cylinder (ASME Y14.5), not its extracted median line (ISO 1101)
          </label>
        )}
        {(c.kind === "position" || c.kind === "profile-of-a-surface") && (
          <label className="flex items-center gap-2">
            <input type="checkbox" checked={c.asAligned} onChange={(e) => put({ asAligned: e.target.checked })} />
            Motions that no datum holds stay as aligned (else they make the value least)
          </label>
        )}
        {numeric("Least share measured, 0 to 1 (else as usual for the kind)", "leastCoverage")}
        {withDatums.includes(c.kind) && (
          <fieldset>
            <legend className="mb-1 text-xs text-soft">Datums, in the plan's order</legend>
            <div className="flex gap-3">
              {(plan.datums ?? []).map((d) => (
                <label key={d.label} className="flex items-center gap-1">
                  <input
                    type="checkbox"
                    checked={c.datums?.includes(d.label) ?? false}
                    onChange={(e) => {
                      const on = new Set(c.datums ?? []);
                      if (e.target.checked) {
                        on.add(d.label);
                      } else {
                        on.delete(d.label);
                      }

                      put({ datums: (plan.datums ?? []).map((x) => x.label).filter((l) => on.has(l)) });
                    }}
                  />
                  {d.label}
                </label>
              ))}
            </div>
          </fieldset>
        )}
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Cancel</Button>
          <Button type="submit" tone="primary" disabled={!complete}>
            Save to the plan
          </Button>
        </div>
      </form>
    </Dialog>
  );
}
