import { useCallback } from "react";
import type { PieceView, PlanView, Schemas } from "../../api/client";
import { mapKinds, newMap, shownMap, withMaps, type MapKind } from "../../plan/maps";
import { useBenchOf } from "../../stage/bench";
import { pickedFaces, usePick, type PickHandler } from "../../stage/picking";
import { ramps, type RampKind } from "../../stage/ramp";
import { Choice, Menu } from "../../ui/Choice";
import { OneOf } from "../../ui/OneOf";
import { Check, Field } from "../../ui/parts";
import { plural } from "../../ui/format";
import { Block } from "../../ui/Worksheet";
import { DeviationBand } from "./DeviationBand";
import { MapEditor } from "./MapEditor";
import type { ChangePlan } from "./types";

interface Props {
  piece: PieceView;
  plan: PlanView;
  nominal: Schemas["NominalView"];
  disabled: boolean;
  onChange: ChangePlan;
}

const groups = ["Deviation", "Form", "Scan"].map((name) => ({
  name,
  options: (Object.keys(mapKinds) as MapKind[])
    .filter((k) => mapKinds[k].group === name)
    .map((value) => ({ value, name: mapKinds[value].name })),
}));

const STEPS = 4;

/** Which map colours the part, how it is made, and its colours. */
export function Maps({ piece, plan, nominal, disabled, onChange }: Props) {
  const { map, onlyFaces, hideWithin, seeThrough, showEdges, ramp, set } = useBenchOf(
    "map",
    "onlyFaces",
    "hideWithin",
    "seeThrough",
    "showEdges",
    "ramp",
    "set",
  );
  const kept = plan.plan.compare?.maps ?? [];
  const shown = shownMap(plan.plan, map);
  const choose = (name: string | null) =>
    set({ map: name, mapLimits: {}, onlyFaces: shownMap(plan.plan, name)?.faces ?? [] });
  const add = (kind: MapKind) => {
    const made = newMap(kind, plan.plan, nominal.faces, piece.serial);
    onChange((p) => withMaps(p, (all) => [...all, made]), {
      onSuccess: () => set({ map: made.name, mapLimits: {}, onlyFaces: [] }),
    });
  };
  return (
    <>
      <div className="flex items-end gap-2">
        <div className="min-w-0 flex-1">
          <Field label="Map">
            <Choice
              value={shown?.name ?? null}
              options={[
                { value: null, name: "Deviation, scan to nominal" },
                ...kept.map((m) => ({ value: m.name ?? "", name: m.name })),
              ]}
              onChange={choose}
            />
          </Field>
        </div>
        <Menu name="Add a map" groups={groups} disabled={disabled} onPick={add} />
      </div>
      {shown ? (
        <MapEditor
          key={shown.name}
          piece={piece}
          plan={plan}
          map={shown}
          nominal={nominal}
          disabled={disabled}
          onChange={onChange}
        />
      ) : (
        <DeviationBand piece={piece} plan={plan} disabled={disabled} onChange={onChange} />
      )}
      <Block title="Shown">
        <div className="space-y-1.5">
          <OneOf
            label="Colours"
            options={(Object.keys(ramps) as RampKind[]).map((value) => ({ value, name: ramps[value].name }))}
            value={ramp.kind}
            onChange={(kind) => set({ ramp: { ...ramp, kind } })}
          />
          <Check checked={ramp.steps !== null} onChange={(on) => set({ ramp: { ...ramp, steps: on ? STEPS : null } })}>
            In steps of one colour
          </Check>
          <Check checked={hideWithin} onChange={(on) => set({ hideWithin: on })}>
            Hide what lies within
          </Check>
          <Check checked={seeThrough} onChange={(on) => set({ seeThrough: on })}>
            See through what lies within
          </Check>
          <Check checked={showEdges} onChange={(on) => set({ showEdges: on })}>
            Edges of the nominal
          </Check>
          <OnlyFaces key={shown?.name} chosen={onlyFaces} />
        </div>
      </Block>
    </>
  );
}

/** Faces to which the map is held: clicked on the part while this is on. */
function OnlyFaces({ chosen }: { chosen: readonly number[] }) {
  const { picking, set } = useBenchOf("picking", "set");
  const on = picking || chosen.length > 0;
  return (
    <>
      <Check checked={on} onChange={(to) => set({ picking: to, onlyFaces: [] })}>
        Only chosen faces{on && chosen.length > 0 ? `: ${plural(chosen.length, "face")}` : ""}
      </Check>
      {on && <PickFaces chosen={chosen} />}
      {on && chosen.length === 0 && <p className="text-soft">Click the faces on the part, each once.</p>}
    </>
  );
}

function PickFaces({ chosen }: { chosen: readonly number[] }) {
  const { set } = useBenchOf("set");
  usePick(
    useCallback<PickHandler>(
      (hit) => {
        if (hit?.face != null) {
          set({ onlyFaces: pickedFaces(chosen, hit.face, true) });
        }
      },
      [chosen, set],
    ),
  );
  return null;
}
