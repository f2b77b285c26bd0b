import { Plus } from "lucide-react";
import type { InspectionPlan, Schemas } from "../../api/client";
import { alignmentNames, alignOf, freeName, ownAlignment, renamed, standingIn, without } from "../../plan/alignments";
import { fixed } from "../../ui/format";
import { TextField } from "../../ui/NumberField";
import { OneOf } from "../../ui/OneOf";
import { Button } from "../../ui/parts";
import { startOf } from "./methods";

interface Props {
  plan: InspectionPlan;
  /** Name of the alignment at work; null: the plan's own. */
  chosen: string | null;
  /** How far it lies from the plan's own on this piece; null where it has no pose. */
  change: Schemas["PoseChange"] | null;
  disabled: boolean;
  onChoose: (name: string | null) => void;
  /** Changes the plan; the alignment of that name is at work once it is there. */
  onChange: (change: (plan: InspectionPlan) => InspectionPlan, chosen: string | null) => void;
}

/** Stands for the plan's own, which has no name: no name is blank. */
const none = " ";

/** The alignments of the plan, and the one at work: its name, and how far it lies from the plan's own. */
export function Named({ plan, chosen, change, disabled, onChoose, onChange }: Props) {
  const names = alignmentNames(plan);
  const users = chosen === null ? [] : standingIn(plan, chosen);
  return (
    <div className="mb-3 space-y-2" data-testid="alignments">
      <div className="flex flex-wrap items-center gap-2">
        {names.length > 0 && (
          <OneOf
            label="Alignment"
            options={[{ value: none, name: ownAlignment }, ...names.map((name) => ({ value: name, name }))]}
            value={chosen ?? none}
            onChange={(v) => onChoose(v === none ? null : v)}
          />
        )}
        <Button
          tone="quiet"
          disabled={disabled}
          onClick={() => {
            const name = freeName(plan);
            onChange(
              (p) => ({
                ...p,
                alignments: [...(p.alignments ?? []), { name, align: alignOf(p, chosen) ?? startOf("all-surfaces") }],
              }),
              name,
            );
          }}
        >
          <Plus size={14} /> Another alignment
        </Button>
      </div>
      {chosen !== null && (
        <>
          <div className="flex items-end gap-2">
            <div className="flex-1">
              <TextField
                key={chosen}
                label="Name of this alignment"
                value={chosen}
                disabled={disabled}
                onChange={(to) => {
                  if (to.trim() && !names.includes(to.trim())) {
                    onChange((p) => renamed(p, chosen, to.trim()), to.trim());
                  }
                }}
              />
            </div>
            <Button
              tone="quiet"
              className="text-bad"
              disabled={disabled || users.length > 0}
              title={users.length > 0 ? `Used by ${users.join(", ")}` : undefined}
              onClick={() => {
                onChange((p) => without(p, chosen), null);
              }}
            >
              Remove
            </Button>
          </div>
          <p className="text-xs text-soft" data-testid="from-own">
            {users.length > 0 ? `Stands in it: ${users.join(", ")}. ` : "Nothing stands in it yet. "}
            {change &&
              `It lies up to ${fixed(change.moves, 4)} mm and ${fixed(change.turnsDegrees, 4)}° from ${ownAlignment}.`}
          </p>
        </>
      )}
    </div>
  );
}
