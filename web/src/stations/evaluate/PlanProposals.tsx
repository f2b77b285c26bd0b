import { useState } from "react";
import { useQuery } from "@tanstack/react-query";
import { api, take, type InspectionPlan, type PlanView } from "../../api/client";
import { characteristicKinds, datumsOf } from "../../plan/characteristics";
import { withProposed } from "../../plan/proposal";
import { plural } from "../../ui/format";
import { Button, Check } from "../../ui/parts";
import { Attention, Block } from "../../ui/Worksheet";

interface Props {
  plan: PlanView;
  partId: string;
  disabled: boolean;
  onChange: (to: (p: InspectionPlan) => InspectionPlan) => void;
}

/** What the nominal proposes to ask of the part: datums, holes, patterns, main faces, a profile over all; a list to tick. */
export function PlanProposals({ plan, partId, disabled, onChange }: Props) {
  const [open, setOpen] = useState(false);
  const [left, setLeft] = useState<ReadonlySet<number>>(new Set());
  const proposal = useQuery({
    queryKey: ["plan-proposal", partId, plan.number],
    enabled: open,
    staleTime: Infinity,
    queryFn: () => take(api.GET("/api/parts/{id}/plan/proposal", { params: { path: { id: partId } } })),
  });
  if (!open) {
    return (
      <Button disabled={disabled} onClick={() => setOpen(true)}>
        Propose from the nominal
      </Button>
    );
  }

  const made = proposal.data;
  const taken = made?.characteristics.filter((c) => !left.has(c.no)) ?? [];
  const tick = (no: number, on: boolean) => {
    const now = new Set(left);
    if (on) {
      now.delete(no);
    } else {
      now.add(no);
    }

    setLeft(now);
  };
  return (
    <Block title="The nominal proposes">
      {proposal.isPending && <p role="status">Looking over the faces …</p>}
      {proposal.error && <Attention>{proposal.error.message}</Attention>}
      {made && (
        <>
          {made.datums.length > 0 && (
            <p className="mb-1">
              Datums:{" "}
              {made.datums.map((d) => `${d.label} ${nameOf(d.features[0], made.features, plan.plan)}`).join(", ")}
            </p>
          )}
          <ul aria-label="Proposed" className="max-h-80 overflow-auto">
            {made.characteristics.map((c) => (
              <li key={c.no}>
                <Check checked={!left.has(c.no)} disabled={disabled} onChange={(on) => tick(c.no, on)}>
                  <span className="font-semibold">{characteristicKinds[c.kind].name}</span>{" "}
                  {datumsOf(c).length > 0 && <span className="num">to {datumsOf(c).join("|")}</span>}{" "}
                  <span className="text-xs text-soft">{c.name}</span>
                </Check>
              </li>
            ))}
          </ul>
          {made.doubts.map((d) => (
            <p key={d} className="text-xs text-soft">
              {d}
            </p>
          ))}
          <div className="mt-2 flex gap-2">
            <Button
              tone="primary"
              disabled={disabled || taken.length === 0}
              onClick={() => {
                onChange((p) => withProposed(p, made, taken));
                setOpen(false);
              }}
            >
              Take {plural(taken.length, "characteristic")}
            </Button>
            <Button onClick={() => setLeft(new Set(left.size > 0 ? [] : made.characteristics.map((c) => c.no)))}>
              {left.size > 0 ? "All" : "None"}
            </Button>
            <Button tone="quiet" onClick={() => setOpen(false)}>
              Close
            </Button>
          </div>
          <p className="mt-1 text-xs text-soft">
            Tolerances begin with ISO 2768 m and K. Set those of the drawing next.
          </p>
        </>
      )}
    </Block>
  );
}

const nameOf = (id: string, made: readonly { id: string; name: string }[], plan: InspectionPlan) =>
  [...made, ...(plan.features ?? [])].find((f) => f.id === id)?.name ?? id;
