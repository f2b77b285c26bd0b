import { useState } from "react";
import type { InspectionPlan, PieceView } from "../../api/client";
import { alignmentNames, ownAlignment } from "../../plan/alignments";
import { Choice } from "../../ui/Choice";
import { Check, Field } from "../../ui/parts";
import { Block } from "../../ui/Worksheet";

const formats = ["ply", "stl", "obj", "3mf", "glb", "xyz"];

/** The scan in an open format: as received, or prepared, on the nominal and with its deviations. */
export function SaveAs({ piece, plan }: { piece: PieceView; plan: InspectionPlan }) {
  const done = piece.run?.comparison != null;
  const [prepared, setPrepared] = useState(done);
  const [alignment, setAlignment] = useState<string | null>(null);
  const names = alignmentNames(plan);
  const standing = alignment === null ? "" : `&alignment=${encodeURIComponent(alignment)}`;
  return (
    <Block title="Save the scan as">
      <div className="flex flex-wrap items-center gap-x-3 gap-y-1">
        {formats.map((f) => (
          <a
            key={f}
            className="text-indigo underline"
            href={`/api/pieces/${piece.id}/export?format=${f}&prepared=${prepared}${prepared ? standing : ""}`}
            download
          >
            {f.toUpperCase()}
          </a>
        ))}
      </div>
      <div className="mt-1 text-xs">
        <Check checked={prepared} disabled={piece.nominalId === null} onChange={setPrepared}>
          prepared{done ? ", on the nominal, with deviations in PLY and XYZ" : ""}
        </Check>
      </div>
      {names.length > 0 && prepared && done && (
        <Field label="In alignment">
          <Choice
            value={alignment}
            options={[
              { value: null, name: "that of the map" },
              { value: "", name: ownAlignment },
              ...names.map((name) => ({ value: name, name })),
            ]}
            onChange={setAlignment}
          />
        </Field>
      )}
    </Block>
  );
}
