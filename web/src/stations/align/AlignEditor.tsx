import { X } from "lucide-react";
import { useCallback, useState } from "react";
import type { AlignPlan, InspectionPlan } from "../../api/client";
import { useBench } from "../../stage/bench";
import { FaceChoice } from "../../stage/FaceChoice";
import { pickedFaces, usePick, type PickHandler } from "../../stage/picking";
import { NumberField } from "../../ui/NumberField";
import { Button, Check, Field } from "../../ui/parts";
import { Block } from "../../ui/Worksheet";
import { AxisPicks } from "./AxisPicks";
import { lacks, methods, motions, moved, startOf, withMotion, type MethodPlan, type To } from "./methods";
import { Pairs, Points } from "./PickedPoints";
import { Choice, namedOptions } from "../../ui/Choice";

interface Props {
  plan: InspectionPlan;
  align: AlignPlan;
  /** Of the scan on the stage; null while it is not aligned. */
  transform: readonly number[] | null;
  disabled: boolean;
  onChange: To;
}

/** How the scan is brought onto the nominal. A way is kept in the plan once it has all it needs. */
export function AlignEditor({ plan, align, transform, disabled, onChange }: Props) {
  const [draft, setDraft] = useState<AlignPlan | null>(null);
  const shown = draft ?? align;
  const missing = lacks(shown);
  const put: To = (to) => {
    const next = to(shown);
    if (lacks(next) === null) {
      setDraft(null);
      // What was not complete yet is kept as it stands here; otherwise the change is made to the plan as it is by then.
      onChange((now) => (draft === null && now.method === next.method ? to(now) : next));
    } else {
      setDraft(next);
    }
  };
  return (
    <Block title="The way">
      <div className="space-y-2">
        <Field label="Way of aligning">
          <Choice
            value={shown.method}
            disabled={disabled}
            options={namedOptions(methods)}
            onChange={(method) => {
              setDraft(null);
              if (method !== align.method) {
                const start = startOf(method, transform);
                if (lacks(start) === null) {
                  onChange(() => start);
                } else {
                  setDraft(start);
                }
              }
            }}
          />
        </Field>
        <p className="text-xs text-soft">{methods[shown.method].about}</p>
        {shown.method === "faces" && (
          <FaceChoice
            faces={shown.faces ?? []}
            disabled={disabled}
            onToggle={(face) =>
              put((a) => (a.method === "faces" ? { ...a, faces: pickedFaces(a.faces ?? [], face, true) } : a))
            }
          />
        )}
        {shown.method === "datums" && (
          <DatumOrder
            of={shown.datums ?? []}
            all={(plan.datums ?? []).map((d) => d.label)}
            disabled={disabled}
            onChange={(to) => put((a) => (a.method === "datums" ? { ...a, datums: to(a.datums ?? []) } : a))}
          />
        )}
        {shown.method === "axis-system" && <AxisPicks align={shown} plan={plan} disabled={disabled} onChange={put} />}
        {shown.method === "reference-points" && <Points align={shown} disabled={disabled} onChange={put} />}
        {shown.method === "point-pairs" && (
          <Pairs align={shown} transform={transform} disabled={disabled} onChange={put} />
        )}
        {(shown.method === "all-surfaces" || shown.method === "faces") && (
          <Fit align={shown} transform={transform} disabled={disabled} onChange={put} />
        )}
        {"prefer" in shown && (shown.prefer ?? shown.start) && (
          <Button disabled={disabled} onClick={() => put((a) => ({ ...a, start: null, prefer: null }) as AlignPlan)}>
            Forget the pose that was chosen
          </Button>
        )}
        {missing && <p className="text-brass">{missing} Until then the plan keeps its present way.</p>}
      </div>
    </Block>
  );
}

function DatumOrder({
  of,
  all,
  disabled,
  onChange,
}: {
  of: string[];
  all: string[];
  disabled: boolean;
  onChange: (to: (of: string[]) => string[]) => void;
}) {
  const free = all.filter((l) => !of.includes(l));
  return (
    <div className="flex flex-wrap items-center gap-1" aria-label="Order of the datums" role="group">
      {of.map((l, at) => (
        <Button
          key={l}
          className="num h-7 px-2"
          disabled={disabled}
          draggable={!disabled}
          title={`Drag, or press the arrow keys, to change its place; click to take datum ${l} out`}
          onDragStart={(e) => e.dataTransfer.setData("text/plain", l)}
          onDragOver={(e) => e.preventDefault()}
          onDrop={(e) => {
            e.preventDefault();
            const dragged = e.dataTransfer.getData("text/plain");
            onChange((now) => moved(now, dragged, now.indexOf(l)));
          }}
          onKeyDown={(e) => {
            const step = e.key === "ArrowLeft" ? -1 : e.key === "ArrowRight" ? 1 : 0;
            if (step !== 0) {
              onChange((now) => moved(now, l, now.indexOf(l) + step));
            }
          }}
          onClick={() => onChange((now) => now.filter((x) => x !== l))}
        >
          <span className="text-soft">{at + 1}</span> {l} <X size={12} />
        </Button>
      ))}
      {free.map((l) => (
        <Button
          key={l}
          tone="quiet"
          className="num h-7 border-dashed border-line px-2"
          disabled={disabled}
          title={`Datum ${l} next`}
          onClick={() => onChange((now) => [...now.filter((x) => x !== l), l])}
        >
          + {l}
        </Button>
      ))}
      {all.length === 0 && (
        <p className="text-xs text-soft">The plan has no datum; make one on the Features station.</p>
      )}
    </div>
  );
}

/** Of a fit: motions that are not allowed, faces that weigh otherwise, both sides alike. */
function Fit({
  align,
  transform,
  disabled,
  onChange,
}: {
  align: MethodPlan<"all-surfaces"> | MethodPlan<"faces">;
  transform: readonly number[] | null;
  disabled: boolean;
  onChange: To;
}) {
  const picked = useBench((s) => s.faces);
  const [open, setOpen] = useState(false);
  const locked = align.locked ?? [];
  const pose = align.start ?? transform;
  const weights = align.weights ?? [];
  const said = [
    locked.length > 0 && `${locked.length} motions locked`,
    weights.length > 0 && `${weights.length} faces weighed`,
    align.balance && "balance",
  ].filter(Boolean);
  const put = (change: object) => onChange((a) => ({ ...a, ...change }) as AlignPlan);
  return (
    <details onToggle={(e) => setOpen(e.currentTarget.open)}>
      <summary className="cursor-pointer text-soft">
        {said.length > 0 ? `With ${said.join(", ")}` : "Locked motions, weights, balance"}
      </summary>
      <div className="mt-2 space-y-2">
        <div className="grid grid-cols-3 gap-1">
          {motions.map((m) => (
            <Check
              key={m}
              checked={locked.includes(m)}
              disabled={disabled || pose === null}
              onChange={(on) => onChange((a) => withMotion(a, m, on, pose!))}
            >
              no {m.replace("-", " ")}
            </Check>
          ))}
        </div>
        <p className="text-xs text-soft">
          {pose === null
            ? "Align once: a locked motion keeps the value of a pose."
            : "A locked motion keeps the value it has now, on every piece: they must come in one frame."}
        </p>
        <Check checked={align.balance ?? false} disabled={disabled} onChange={(balance) => put({ balance })}>
          Balance: the least greatest deviation instead of least squares
        </Check>
        {weights.map((w) => (
          <div key={w.face} className="flex items-end gap-2">
            <NumberField
              label={`Weight of face ${w.face}`}
              value={w.weight}
              min={0}
              disabled={disabled}
              onChange={(weight) =>
                put({ weights: weights.map((x) => (x.face === w.face ? { ...x, weight: weight ?? 1 } : x)) })
              }
            />
            <Button
              disabled={disabled}
              aria-label={`Weigh face ${w.face} as all others`}
              onClick={() => put({ weights: weights.filter((x) => x.face !== w.face) })}
            >
              <X size={14} />
            </Button>
          </div>
        ))}
        {open && (
          <WeighPicked
            picked={picked.filter((f) => !weights.some((w) => w.face === f))}
            disabled={disabled}
            onWeigh={(faces) => put({ weights: [...weights, ...faces.map((face) => ({ face, weight: 10 }))] })}
          />
        )}
      </div>
    </details>
  );
}

function WeighPicked({
  picked,
  disabled,
  onWeigh,
}: {
  picked: number[];
  disabled: boolean;
  onWeigh: (faces: number[]) => void;
}) {
  const set = useBench((s) => s.set);
  usePick(
    useCallback<PickHandler>(
      (hit) => {
        if (hit?.face != null) {
          set({ faces: [hit.face] });
        }
      },
      [set],
    ),
  );
  return picked.length > 0 ? (
    <Button disabled={disabled} onClick={() => onWeigh(picked)}>
      Weigh the picked face ten times
    </Button>
  ) : (
    <p className="text-xs text-soft">Click a face on the stage to weigh it.</p>
  );
}
