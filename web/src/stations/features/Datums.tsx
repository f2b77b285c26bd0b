import { X } from "lucide-react";
import type { InspectionPlan } from "../../api/client";
import { datumsOf } from "../../plan/characteristics";
import { planFeatures, type PlanFeature } from "../../plan/features";
import { useBench } from "../../stage/bench";
import { Button } from "../../ui/parts";
import { Block } from "../../ui/Worksheet";

interface Props {
  plan: InspectionPlan;
  /** The feature that is picked, when it is one of the plan. */
  known: PlanFeature | null;
  disabled: boolean;
  onChange: (change: (plan: InspectionPlan) => InspectionPlan) => void;
}

/** Datum letters and the features that make them; several features make a common datum. */
export function Datums({ plan, known, disabled, onChange }: Props) {
  const set = useBench((s) => s.set);
  const datums = plan.datums ?? [];
  const all = planFeatures(plan);
  const name = (id: string) => all.find((f) => f.id === id)?.name ?? id;
  const put = (change: (of: NonNullable<InspectionPlan["datums"]>) => NonNullable<InspectionPlan["datums"]>) =>
    onChange((p) => ({ ...p, datums: change(p.datums ?? []) }));
  const next = nextLetter(datums.map((d) => d.label));
  return (
    <Block title="Datums">
      <ul data-testid="datums">
        {datums.map((d) => {
          const users = usersOf(d.label, plan);
          return (
            <li key={d.label} className="flex items-center gap-2 border-t border-line/60 py-1">
              <span className="num inline-flex size-6 items-center justify-center border border-ink font-semibold">
                {d.label}
              </span>
              <button
                type="button"
                className="flex-1 text-left hover:underline"
                onClick={() =>
                  set({
                    faces: d.features.flatMap((id) => all.find((f) => f.id === id)?.faces ?? []),
                  })
                }
              >
                {d.features.map(name).join(" and ")}
              </button>
              {known && !d.features.includes(known.id) && (
                <Button
                  className="h-6 px-2 text-xs"
                  disabled={disabled}
                  title={`Make ${d.label} a common datum with ${known.name}`}
                  onClick={() =>
                    put((of) =>
                      of.map((x) => (x.label === d.label ? { ...x, features: [...x.features, known.id] } : x)),
                    )
                  }
                >
                  Join
                </Button>
              )}
              {known && d.features.length > 1 && d.features.includes(known.id) && (
                <Button
                  className="h-6 px-2 text-xs"
                  disabled={disabled}
                  onClick={() =>
                    put((of) =>
                      of.map((x) =>
                        x.label === d.label ? { ...x, features: x.features.filter((f) => f !== known.id) } : x,
                      ),
                    )
                  }
                >
                  Leave
                </Button>
              )}
              <button
                type="button"
                className="rounded p-1 hover:bg-tint disabled:opacity-30"
                aria-label={`Remove datum ${d.label}`}
                title={users.length > 0 ? `Used by ${users.join(", ")}` : `Remove datum ${d.label}`}
                disabled={disabled || users.length > 0}
                onClick={() => put((of) => of.filter((x) => x.label !== d.label))}
              >
                <X size={14} />
              </button>
            </li>
          );
        })}
      </ul>
      {known ? (
        <Button
          className="mt-1"
          disabled={disabled}
          onClick={() => put((of) => [...of, { label: next, features: [known.id] }])}
        >
          Make “{known.name}” datum {next}
        </Button>
      ) : (
        <p className="text-xs text-soft">Pick a feature of the plan to make it a datum.</p>
      )}
    </Block>
  );
}

/** ISO 5459 leaves out letters that are easily taken for others. */
const letters = [..."ABCDEFGHJKLMNPRSTUVWY"];

export const nextLetter = (used: readonly string[]): string =>
  letters.find((l) => !used.includes(l)) ?? `A${used.length}`;

/** What of a plan refers to a datum. */
const usersOf = (label: string, plan: InspectionPlan): string[] => [
  ...(plan.align && "datums" in plan.align && plan.align.datums?.includes(label) ? ["the alignment"] : []),
  ...(plan.characteristics ?? []).filter((c) => datumsOf(c).includes(label)).map((c) => `characteristic ${c.no}`),
];
