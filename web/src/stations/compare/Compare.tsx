import { useState } from "react";
import { usePlanChange } from "../../api/hooks";
import type { InspectionPlan } from "../../api/client";
import { StandsIn } from "../../plan/StandsIn";
import { useBenchOf } from "../../stage/bench";
import { Button } from "../../ui/parts";
import { OneOf } from "../../ui/OneOf";
import { Attention, Worksheet } from "../../ui/Worksheet";
import type { StationProps } from "../types";
import { Areas } from "./Areas";
import { Distances } from "./Distances";
import { Explained } from "./Explained";
import { Labels } from "./Labels";
import { Maps } from "./Maps";
import { round } from "./round";
import { Sections } from "./Sections";

const tasks = [
  { value: "map", name: "Map" },
  { value: "explained", name: "Explained" },
  { value: "areas", name: "Areas" },
  { value: "labels", name: "Labels" },
  { value: "sections", name: "Sections" },
  { value: "distances", name: "Distances" },
] as const;

/** Where a part's story is read: maps of its surface, where they lie beyond, labels and sections. */
export function Compare({ piece, plan, nominal, busy, start }: StationProps) {
  const { limits, ramp, map, mapLimits, set } = useBenchOf("limits", "ramp", "map", "mapLimits", "set");
  const [task, setTask] = useState<(typeof tasks)[number]["value"]>("map");
  const { mutate, isPending: saving } = usePlanChange(piece.partId);
  const kept = plan.plan.compare;
  const turnTo = (to: typeof task) => {
    setTask(to);
    if (to === "areas" || to === "sections" || to === "explained") {
      // They are of the deviation.
      set({ map: null, mapLimits: {}, onlyFaces: [], picking: false });
    }
  };
  const keep = (compare: Partial<NonNullable<InspectionPlan["compare"]>>) =>
    mutate((p) => ({ ...p, compare: { ...p.compare, ...compare } as NonNullable<InspectionPlan["compare"]> }));
  const keepShown = () => {
    const [lower, upper] = [round(limits.lower), round(limits.upper)];
    const maps = (kept?.maps ?? []).map((m) => (m.name === map ? { ...m, ...rounded(mapLimits) } : m));
    keep({ lower, upper, ramp, maps });
    set({ mapLimits: {} });
  };
  const changed =
    kept?.lower !== round(limits.lower) ||
    kept?.upper !== round(limits.upper) ||
    (kept?.ramp?.kind ?? "blue-rust") !== ramp.kind ||
    (kept?.ramp?.steps ?? null) !== ramp.steps ||
    Object.keys(mapLimits).length > 0;
  const compared = Boolean(piece.run?.comparison);
  const stale = piece.stations.find((st) => st.key === "compare")?.state === "outOfDate";
  const disabled = busy || saving;
  return (
    <Worksheet
      title="Compare"
      lead="Signed deviation of the scan from the nominal; positive is material in excess."
      action={
        <>
          <Button
            tone="primary"
            className="flex-1"
            disabled={busy || !nominal || piece.vertices === 0}
            onClick={() => start("compare")}
          >
            {compared ? "Compare again" : "Compare"}
          </Button>
          <Button disabled={disabled || !changed} onClick={keepShown}>
            Keep band in plan
          </Button>
        </>
      }
    >
      {stale && (
        <Attention>
          Something before this changed: what is shown is of before. Compare again to bring it up to date.
        </Attention>
      )}
      {compared && <OneOf label="What is looked at" look="tabs" options={tasks} value={task} onChange={turnTo} />}
      <StandsIn
        plan={plan.plan}
        value={kept?.alignment}
        disabled={disabled}
        onChange={(alignment) => keep({ alignment })}
      />
      {compared && nominal && task === "sections" && (
        <Sections piece={piece} plan={plan} nominal={nominal} disabled={disabled} onChange={mutate} />
      )}
      {compared && nominal && task === "map" && (
        <Maps piece={piece} plan={plan} nominal={nominal} disabled={disabled} onChange={mutate} />
      )}
      {compared && nominal && task === "explained" && (
        <Explained
          piece={piece}
          plan={plan}
          nominal={nominal}
          disabled={disabled}
          onChange={mutate}
          onMap={() => setTask("map")}
        />
      )}
      {compared && nominal && task === "areas" && (
        <Areas piece={piece} plan={plan} nominal={nominal} disabled={disabled} onChange={mutate} />
      )}
      {compared && nominal && task === "distances" && <Distances piece={piece} plan={plan} nominal={nominal} />}
      {compared && task === "labels" && <Labels piece={piece} plan={plan} disabled={disabled} onChange={mutate} />}
    </Worksheet>
  );
}

const rounded = (limits: { lower?: number; upper?: number }) =>
  Object.fromEntries(Object.entries(limits).map(([side, v]) => [side, round(v)]));
