import { ArrowDown, ArrowUp, Eye, EyeOff, Pencil, Trash2 } from "lucide-react";
import type { ReactNode } from "react";
import type { PrepareStep, Schemas } from "../../api/client";
import { Named } from "../../ui/parts";
import { kindOf, selectionOf, termWords } from "./stepKinds";

interface Props {
  steps: PrepareStep[];
  /** Outcomes of the steps that are on, in order; null while they are being worked out. */
  outcomes: Schemas["StepRecord"][] | null;
  disabled: boolean;
  onChange: (steps: PrepareStep[]) => void;
  onEdit: (index: number) => void;
}

/** The plan's preparing steps with what each did to this scan. */
export function StepList({ steps, outcomes, disabled, onChange, onEdit }: Props) {
  const outcomeOf = (index: number) =>
    steps[index].off ? null : outcomes?.[steps.slice(0, index).filter((s) => !s.off).length];
  const moved = (from: number, to: number) => {
    const next = [...steps];
    next.splice(to, 0, ...next.splice(from, 1));
    onChange(next);
  };
  return (
    <ol className="space-y-1" aria-label="Steps">
      {steps.map((step, i) => {
        const outcome = outcomeOf(i);
        return (
          <li key={`${step.kind} ${i}`} className={`rounded border border-line p-2 ${step.off ? "opacity-55" : ""}`}>
            <div className="flex items-center gap-1">
              <span className="num w-4 text-soft">{i + 1}</span>
              <span className="flex-1 font-medium">{kindOf(step.kind).name}</span>
              <Act
                name={step.off ? "Switch on" : "Switch off"}
                disabled={disabled}
                onClick={() => onChange(steps.map((s, k) => (k === i ? { ...s, off: !s.off } : s)))}
              >
                {step.off ? <EyeOff size={14} /> : <Eye size={14} />}
              </Act>
              <Act name="Earlier" disabled={disabled || i === 0} onClick={() => moved(i, i - 1)}>
                <ArrowUp size={14} />
              </Act>
              <Act name="Later" disabled={disabled || i === steps.length - 1} onClick={() => moved(i, i + 1)}>
                <ArrowDown size={14} />
              </Act>
              <Act name="Change" disabled={disabled} onClick={() => onEdit(i)}>
                <Pencil size={14} />
              </Act>
              <Act name="Take out" disabled={disabled} onClick={() => onChange(steps.filter((_, k) => k !== i))}>
                <Trash2 size={14} />
              </Act>
            </div>
            {selectionOf(step).length > 0 && (
              <p className="pl-5 text-xs text-soft">{selectionOf(step).map(termWords).join(", ")}</p>
            )}
            {outcome && <p className="pl-5 text-xs">{outcome.said}</p>}
            {outcome?.caution && <p className="pl-5 text-xs text-brass">{outcome.caution}</p>}
          </li>
        );
      })}
    </ol>
  );
}

function Act({ name, ...rest }: { name: string; disabled: boolean; onClick: () => void; children: ReactNode }) {
  return (
    <Named name={name}>
      <button type="button" aria-label={name} className="rounded p-1 hover:bg-tint disabled:opacity-30" {...rest} />
    </Named>
  );
}
