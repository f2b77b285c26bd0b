import type { PrepareStep, Schemas } from "../../api/client";
import { Button, Check, Field, Input } from "../../ui/parts";
import { HoleChoice } from "./HoleChoice";
import { isComplete, kindOf, selectionOf, valueOf } from "./stepKinds";

interface Props {
  step: PrepareStep;
  change: (step: PrepareStep) => void;
  trying: boolean;
  busy: boolean;
  said: string | null;
  caution: string | null;
  error: string | null;
  /** Holes of the scan before the step, for choosing some. */
  holes: Schemas["HoleEntry"][];
  onTry: (on: boolean) => void;
  onKeep: () => void;
  onCancel: () => void;
}

/** The step being made: its numbers, its outcome when tried, and whether to keep it in the plan. */
export function StepForm({ step, change, trying, busy, said, caution, error, holes, onTry, onKeep, onCancel }: Props) {
  const kind = kindOf(step.kind);
  const complete = isComplete(step);
  return (
    <form
      className="space-y-2 rounded border border-indigo p-3"
      aria-label={kind.name}
      onSubmit={(e) => {
        e.preventDefault();
        onKeep();
      }}
    >
      <div>
        <p className="font-semibold">{kind.name}</p>
        <p className="text-xs text-soft">{kind.about}</p>
      </div>
      {kind.fields.map((f) => (
        <Field key={f.key} label={f.label} hint={f.hint}>
          <Input
            type="number"
            step="any"
            min={0}
            value={(valueOf(step, f.key) as number | null | undefined) ?? ""}
            onChange={(e) =>
              change({ ...step, [f.key]: e.target.value === "" ? null : Number(e.target.value) } as PrepareStep)
            }
          />
        </Field>
      ))}
      {kind.switches?.map((s) => (
        <Check
          key={s.key}
          checked={valueOf(step, s.key) === true}
          onChange={(on) => change({ ...step, [s.key]: on } as PrepareStep)}
        >
          {s.label}
          {s.hint && <span className="block text-xs text-soft">{s.hint}</span>}
        </Check>
      ))}
      {step.kind === "fill" && holes.length > 0 && <HoleChoice step={step} holes={holes} change={change} />}
      {kind.selection === "needs" && selectionOf(step).length === 0 && (
        <p className="text-xs text-soft">Select on the stage what it acts on.</p>
      )}
      {kind.selection === "may" && (
        <p className="text-xs text-soft">
          {selectionOf(step).length > 0 ? "Acts on the selection." : "Acts on everything: nothing is selected."}
        </p>
      )}
      {trying && said && (
        <p className="text-xs" data-testid="tried">
          {said}
        </p>
      )}
      {trying && caution && <p className="text-xs text-brass">{caution}</p>}
      {error && (
        <p className="text-xs text-bad" role="alert">
          {error}
        </p>
      )}
      <div className="flex gap-2">
        <Button aria-pressed={trying} disabled={!complete || busy} onClick={() => onTry(!trying)}>
          {trying ? "Back" : "Try"}
        </Button>
        <Button tone="primary" type="submit" className="flex-1" disabled={!complete || busy || error !== null}>
          Keep the step
        </Button>
        <Button tone="quiet" onClick={onCancel}>
          Cancel
        </Button>
      </div>
    </form>
  );
}
