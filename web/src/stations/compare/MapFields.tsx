import { useState } from "react";
import type { MapPlan, PlanView, Schemas } from "../../api/client";
import { usePieces } from "../../api/hooks";
import { planFeatures } from "../../plan/features";
import { axisThrough } from "../../plan/maps";
import { axisOfFace } from "../../plan/sections";
import { usualParts } from "../../plan/explained";
import { usePick } from "../../stage/picking";
import { Choice } from "../../ui/Choice";
import { fixed } from "../../ui/format";
import { NumberField } from "../../ui/NumberField";
import { OneOf } from "../../ui/OneOf";
import { Button, Field } from "../../ui/parts";
import { TakenOut } from "./TakenOut";

const ways = [
  { value: "x", name: "X" },
  { value: "y", name: "Y" },
  { value: "z", name: "Z" },
  { value: "-x", name: "−X" },
  { value: "-y", name: "−Y" },
  { value: "-z", name: "−Z" },
];

const vectorOf = (way: string) => ["x", "y", "z"].map((a) => (way === a ? 1 : way === `-${a}` ? -1 : 0));
const wayOf = (v: readonly number[]) =>
  ways.find((w) => vectorOf(w.value).every((x, i) => Math.abs(x - v[i]) < 1e-9))?.value ?? "";

/** The fields of a kind of map. */
export function MapFields({
  map,
  part,
  plan,
  nominal,
  disabled,
  onEdit,
}: {
  map: MapPlan;
  part: string;
  plan: PlanView;
  nominal: Schemas["NominalView"];
  disabled: boolean;
  onEdit: (to: object) => void;
}) {
  const radius = (value: number | null | undefined) => (
    <NumberField
      label="Looked at within, mm"
      value={value}
      empty="three spacings"
      min={0}
      disabled={disabled}
      onChange={(r) => onEdit({ radius: r })}
    />
  );
  switch (map.kind) {
    case "along-direction":
      return (
        <Direction
          label="Along"
          value={map.direction ?? [0, 0, 1]}
          nominal={nominal}
          onChange={(direction) => onEdit({ direction })}
        />
      );
    case "draft":
      return (
        <>
          <Direction
            label="Pulled along"
            value={map.pull ?? [0, 0, 1]}
            nominal={nominal}
            onChange={(pull) => onEdit({ pull })}
          />
          {radius(map.radius)}
        </>
      );
    case "radial":
      return (
        <>
          <p className="num text-xs">
            axis through {(map.point ?? [0, 0, 0]).map((v) => fixed(v, 2)).join(", ")} along{" "}
            {(map.axis ?? [0, 0, 1]).map((v) => fixed(v, 3)).join(", ")}
          </p>
          <FromFace
            name="Take the axis of a face"
            nominal={nominal}
            read={(f) => axisThrough(f)}
            fault="This face has no axis: click a round one."
            onTake={onEdit}
          />
        </>
      );
    case "thickness":
      return (
        <>
          <OneOf
            label="Taken"
            options={[
              { value: "sphere", name: "sphere within" },
              { value: "ray", name: "along the normal" },
            ]}
            value={map.by ?? "sphere"}
            onChange={(by) => onEdit({ by })}
          />
          <NumberField
            label="Walls up to, mm"
            value={map.limit ?? 50}
            min={0.001}
            max={1000}
            disabled={disabled}
            onChange={(limit) => onEdit({ limit: limit ?? 50 })}
          />
        </>
      );
    case "curvature":
      return (
        <>
          <OneOf
            label="Told"
            options={[
              { value: "mean", name: "mean" },
              { value: "greatest", name: "greatest" },
              { value: "radius", name: "radius" },
            ]}
            value={map.of ?? "mean"}
            onChange={(of) => onEdit({ of })}
          />
          {radius(map.radius)}
        </>
      );
    case "remaining":
      return (
        <Field label="Taken out of the deviation">
          <TakenOut
            parts={map.without ?? usualParts}
            disabled={disabled}
            onChange={(without) => without.length > 0 && onEdit({ without })}
          />
        </Field>
      );
    case "other-piece":
      return <OtherPiece part={part} value={map.piece ?? ""} disabled={disabled} onChange={onEdit} />;
    case "residuals":
      return (
        <Field label="Feature">
          <Choice
            value={map.feature ?? ""}
            disabled={disabled}
            options={planFeatures(plan.plan)
              .filter((f) => f.measured)
              .map((f) => ({ value: f.id, name: f.name }))}
            onChange={(feature) => onEdit({ feature })}
          />
        </Field>
      );
    default:
      return null;
  }
}

/** Which piece of the part the map is held against. */
function OtherPiece({
  part,
  value,
  disabled,
  onChange,
}: {
  part: string;
  value: string;
  disabled: boolean;
  onChange: (to: object) => void;
}) {
  const pieces = usePieces("all", "", part);
  return (
    <Field label="Held against piece">
      <Choice
        value={value}
        disabled={disabled}
        options={(pieces.data?.pages ?? []).flatMap((page) => page.pieces.map((p) => ({ value: p.serial })))}
        onChange={(piece) => onChange({ piece })}
      />
    </Field>
  );
}

/** A direction: of an axis of the part, or of a face that is clicked. */
function Direction({
  label,
  value,
  nominal,
  onChange,
}: {
  label: string;
  value: readonly number[];
  nominal: Schemas["NominalView"];
  onChange: (to: number[]) => void;
}) {
  return (
    <div className="space-y-1.5">
      <OneOf label={label} options={ways} value={wayOf(value)} onChange={(way) => onChange(vectorOf(way))} />
      {wayOf(value) === "" && <p className="num text-xs">{value.map((v) => fixed(v, 4)).join(", ")}</p>}
      <FromFace
        name="Take it from a face"
        nominal={nominal}
        read={axisOfFace}
        fault="This face has no direction of its own."
        onTake={onChange}
      />
    </div>
  );
}

/** Something that the next clicked face gives. */
function FromFace<T>({
  name,
  nominal,
  read,
  fault,
  onTake,
}: {
  name: string;
  nominal: Schemas["NominalView"];
  read: (face: Schemas["FaceView"]) => T | null;
  fault: string;
  onTake: (taken: T) => void;
}) {
  const [on, turn] = useState(false);
  const [wrong, setWrong] = useState(false);
  return (
    <>
      <Button aria-pressed={on} className={on ? "border-indigo bg-tint" : ""} onClick={() => turn(!on)}>
        {on ? "Click a face on the part …" : name}
      </Button>
      {on && (
        <Listening
          onFace={(face) => {
            const taken = read(nominal.faces[face]);
            setWrong(taken === null);
            if (taken !== null) {
              turn(false);
              onTake(taken);
            }
          }}
        />
      )}
      {on && wrong && <p className="text-bad">{fault}</p>}
    </>
  );
}

function Listening({ onFace }: { onFace: (face: number) => void }) {
  usePick((hit) => hit?.face != null && onFace(hit.face));
  return null;
}
