import { Pin } from "lucide-react";
import { useReadings } from "../../api/comparison";
import type { LabelPlan, PieceView, PlanView, Schemas } from "../../api/client";
import { shownMap } from "../../plan/maps";
import { useBenchOf } from "../../stage/bench";
import { signed } from "../../ui/format";
import { NumberField, TextField } from "../../ui/NumberField";
import { Button, Check } from "../../ui/parts";
import { Block } from "../../ui/Worksheet";
import type { ChangePlan } from "./types";

type Content = NonNullable<Schemas["LabelContent"]>;

const contents: readonly { value: Content; name: string }[] = [
  { value: "name", name: "name" },
  { value: "value", name: "value" },
  { value: "limits", name: "limits" },
  { value: "beyond", name: "by how much it lies beyond" },
];

const none: LabelPlan[] = [];

interface Props {
  piece: PieceView;
  plan: PlanView;
  disabled: boolean;
  onChange: ChangePlan;
}

/** Places of the nominal that are read on every piece, and what is written there. */
export function Labels({ piece, plan, disabled, onChange }: Props) {
  const { pinning, map, view, set } = useBenchOf("pinning", "map", "view", "set");
  const labels = plan.plan.compare?.labels ?? none;
  const say = plan.plan.compare?.labelsSay ?? ["value"];
  const readings = useReadings(piece, labels, shownMap(plan.plan, map));
  const keep = (compare: object) => onChange((p) => ({ ...p, compare: { ...p.compare!, ...compare } }));
  const edit = (i: number, to: Partial<LabelPlan>) =>
    onChange((p) => ({
      ...p,
      compare: {
        ...p.compare!,
        labels: (p.compare?.labels ?? []).map((l, k) => (k === i ? { ...l, ...to } : l)),
      },
    }));
  return (
    <>
      <div className="flex flex-wrap gap-2">
        <Button
          aria-pressed={pinning}
          className={pinning ? "border-indigo bg-tint" : ""}
          onClick={() => set({ pinning: !pinning })}
        >
          <Pin size={14} /> {pinning ? "Click on the part …" : "Pin labels"}
        </Button>
        <Button disabled={labels.length === 0 || disabled} onClick={() => keep({ labels: [] })}>
          Remove {labels.length || ""} {labels.length === 1 ? "label" : "labels"}
        </Button>
      </div>
      <Block title="Labels say">
        <div className="space-y-1">
          {contents.map(({ value, name }) => (
            <Check
              key={value}
              checked={say.includes(value)}
              disabled={disabled || (say.length === 1 && say[0] === value)}
              onChange={(on) => keep({ labelsSay: on ? [...say, value] : say.filter((s) => s !== value) })}
            >
              {name}
            </Check>
          ))}
        </div>
      </Block>
      {labels.length > 0 && (
        <Block title="Each reads">
          <ul className="space-y-2">
            {labels.map((l, i) => {
              const reading = readings?.[i];
              return (
                <li key={i} className="border-t border-line/60 pt-1.5 first:border-0" data-testid="label-row">
                  <div className="flex items-baseline justify-between">
                    <button
                      type="button"
                      className="underline"
                      onClick={() => view?.fly(l.point, view.direction(), view.controls.span)}
                    >
                      label {i + 1}
                    </button>
                    <span className="num font-semibold">
                      {reading == null ? "…" : reading.value == null ? "no data" : signed(reading.value)}
                      {reading != null && reading.points > 1 && (
                        <span className="ml-1 font-normal text-soft">of {reading.points} points</span>
                      )}
                    </span>
                  </div>
                  <div className="grid grid-cols-2 gap-2">
                    <TextField
                      label="Name"
                      optional
                      value={l.name ?? ""}
                      disabled={disabled}
                      onChange={(name) => edit(i, { name })}
                    />
                    <NumberField
                      label="Mean within, mm"
                      value={l.radius}
                      empty="nearest point"
                      min={0}
                      disabled={disabled}
                      onChange={(radius) => edit(i, { radius })}
                    />
                  </div>
                </li>
              );
            })}
          </ul>
        </Block>
      )}
      {labels.length === 0 && (
        <p className="text-soft">Pin a label where the part matters: it is read there on every piece.</p>
      )}
    </>
  );
}
