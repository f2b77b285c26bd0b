import { useState } from "react";
import type { PieceView } from "../../api/client";
import { Check } from "../../ui/parts";
import { Block } from "../../ui/Worksheet";

const formats = ["ply", "stl", "obj", "3mf", "glb", "xyz"];

/** The scan in an open format: as received, or prepared, on the nominal and with its deviations. */
export function SaveAs({ piece }: { piece: PieceView }) {
  const done = piece.run?.comparison != null;
  const [prepared, setPrepared] = useState(done);
  return (
    <Block title="Save the scan as">
      <div className="flex flex-wrap items-center gap-x-3 gap-y-1">
        {formats.map((f) => (
          <a
            key={f}
            className="text-indigo underline"
            href={`/api/pieces/${piece.id}/export?format=${f}&prepared=${prepared}`}
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
    </Block>
  );
}
