import { X } from "lucide-react";
import { useState } from "react";
import type { FeaturePlan } from "../../api/client";
import { usePick } from "../../stage/picking";
import { fixed } from "../../ui/format";
import { NumberField } from "../../ui/NumberField";
import { Button } from "../../ui/parts";

/** A new target begins so large, mm. */
const usualRadius = 3;

interface Props {
  feature: FeaturePlan;
  disabled: boolean;
  onEdit: (to: (f: FeaturePlan) => FeaturePlan) => void;
}

/** The areas in which alone a feature is measured, as a datum is that is taken from its targets. */
export function Targets({ feature, disabled, onEdit }: Props) {
  const [placing, setPlacing] = useState(false);
  const targets = feature.targets ?? [];
  const put = (to: (of: typeof targets) => typeof targets) =>
    onEdit((f) => {
      const next = to(f.targets ?? []);
      return { ...f, targets: next.length > 0 ? next : null };
    });
  return (
    <div className="space-y-1" data-testid="targets">
      <div className="flex items-center justify-between gap-2">
        <span>
          {placing
            ? "Click the places on the stage."
            : targets.length === 0
              ? "Measured on all of it"
              : `Measured in ${targets.length} target ${targets.length === 1 ? "area" : "areas"}`}
        </span>
        <Button aria-pressed={placing} disabled={disabled} onClick={() => setPlacing(!placing)}>
          {placing ? "Done" : "Target areas"}
        </Button>
      </div>
      {placing && (
        <Place
          faces={feature.faces}
          onPlace={(point) => put((of) => [...of, { point, radius: of.at(-1)?.radius ?? usualRadius }])}
        />
      )}
      {targets.map((t, i) => (
        <div key={i} className="flex items-end gap-2">
          <div className="flex-1">
            <NumberField
              label={`${i + 1}: radius about ${t.point.map((v) => fixed(v, 1)).join(" ")}, mm`}
              value={t.radius}
              min={0.01}
              disabled={disabled}
              onChange={(radius) => put((of) => of.map((x, k) => (k === i ? { ...x, radius: radius ?? x.radius } : x)))}
            />
          </div>
          <Button
            aria-label={`Remove target ${i + 1}`}
            disabled={disabled}
            onClick={() => put((of) => of.filter((_, k) => k !== i))}
          >
            <X size={14} />
          </Button>
        </div>
      ))}
    </div>
  );
}

/** While it is there, clicks on the feature's own faces place targets. */
function Place({ faces, onPlace }: { faces: readonly number[]; onPlace: (point: number[]) => void }) {
  usePick((hit) => {
    if (hit?.nominal && hit.face !== null && faces.includes(hit.face)) {
      onPlace([...hit.nominal.point]);
    }
  });
  return null;
}
