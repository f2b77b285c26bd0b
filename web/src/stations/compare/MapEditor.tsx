import type { MapPlan, PieceView, PlanView, Schemas } from "../../api/client";
import { useMapView } from "../../api/comparison";
import { renamed, withMaps } from "../../plan/maps";
import { useBenchOf } from "../../stage/bench";
import { capital, count, fixed, percent } from "../../ui/format";
import { NumberField, TextField } from "../../ui/NumberField";
import { Button, Facts } from "../../ui/parts";
import { Attention, Block } from "../../ui/Worksheet";
import { MapFields } from "./MapFields";
import type { ChangePlan } from "./types";

interface Props {
  piece: PieceView;
  plan: PlanView;
  map: MapPlan;
  nominal: Schemas["NominalView"];
  disabled: boolean;
  onChange: ChangePlan;
}

/** How a kept map is made, its limits, and what it says of this piece. */
export function MapEditor({ piece, plan, map, nominal, disabled, onChange }: Props) {
  const { onlyFaces, set } = useBenchOf("onlyFaces", "set");
  const made = useMapView(piece, map);
  const edit = (to: Partial<MapPlan>) =>
    onChange((p) => withMaps(p, (all) => all.map((m) => (m.name === map.name ? ({ ...m, ...to } as MapPlan) : m))));
  const remove = () => onChange((p) => withMaps(p, (all) => all.filter((m) => m.name !== map.name)));
  const rename = (name: string) =>
    onChange((p) => renamed(p, map.name ?? "", name), {
      onSuccess: () => set({ map: name }),
    });
  const s = made.data?.statistics;
  const unit = made.data?.unit ?? "";
  const decimals = unit === "1/mm" ? 5 : unit === "°" ? 2 : 3;
  const facesChanged = JSON.stringify(onlyFaces) !== JSON.stringify(map.faces ?? []);
  return (
    <>
      <TextField label="Name" value={map.name ?? ""} disabled={disabled} onChange={rename} />
      <MapFields map={map} part={piece.partId} plan={plan} nominal={nominal} disabled={disabled} onEdit={edit} />
      <div className="grid grid-cols-2 gap-2">
        <NumberField
          label={unit ? `At least, ${unit}` : "At least"}
          value={map.lower}
          empty="no limit"
          disabled={disabled}
          onChange={(lower) => edit({ lower })}
        />
        <NumberField
          label={unit ? `At most, ${unit}` : "At most"}
          value={map.upper}
          empty="no limit"
          disabled={disabled}
          onChange={(upper) => edit({ upper })}
        />
      </div>
      {facesChanged && (
        <Button disabled={disabled} onClick={() => edit({ faces: [...onlyFaces] })}>
          Keep the map to these faces
        </Button>
      )}
      {made.data?.remarks.map((r) => (
        <Attention key={r}>{r}</Attention>
      ))}
      {s && (
        <Block title="This piece, weighted by area">
          <p className="mb-1 text-soft">{capital(made.data!.words)}.</p>
          <Facts
            rows={[
              ["least", `${fixed(s.min, decimals)} ${unit}`],
              ["greatest", `${fixed(s.max, decimals)} ${unit}`],
              ["mean", `${fixed(s.mean, decimals)} ${unit}`],
              [
                "middle 90 %",
                `${fixed(s.percentiles["5"], decimals)} … ${fixed(s.percentiles["95"], decimals)} ${unit}`,
              ],
              ...(map.lower != null || map.upper != null
                ? ([["within its limits", percent(s.withinTolerance)]] as const)
                : []),
              ["places", count(s.count)],
              ["no data", percent(s.noData)],
            ]}
          />
        </Block>
      )}
      <Button tone="quiet" className="text-bad" disabled={disabled} onClick={remove}>
        Remove this map
      </Button>
    </>
  );
}
