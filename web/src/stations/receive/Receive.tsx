import { api, take } from "../../api/client";
import { useAction } from "../../api/hooks";
import { count, size } from "../../ui/format";
import { Button, Facts, Field, Select } from "../../ui/parts";
import { Attention, Block, Worksheet } from "../../ui/Worksheet";
import type { StationProps } from "../types";

const units = ["mm", "cm", "m", "inch"];

export function Receive({ piece, nominal, busy, start }: StationProps) {
  const change = useAction(
    (unit: string) => take(api.POST("/api/pieces/{id}/unit", { params: { path: { id: piece.id } }, body: { unit } })),
    [["piece", piece.id]],
  );
  const wrong = piece.guess && !piece.guess.agrees;
  return (
    <Worksheet
      title="Receive"
      lead={`${piece.fileName}${piece.format ? `, ${piece.format}` : ""}`}
      action={
        <Button
          tone="primary"
          className="flex-1"
          disabled={busy || !nominal || piece.vertices === 0}
          onClick={() => start("run-plan")}
        >
          Run plan
        </Button>
      }
    >
      {piece.problem && (
        <Attention>
          <p className="text-bad">{piece.problem}</p>
          <p>Drop the file again once it is mended; the piece keeps its serial number if you give it a new one here.</p>
        </Attention>
      )}
      {wrong && (
        <Attention>
          <p className="font-semibold">The size does not fit the nominal.</p>
          <p>
            {piece.guess!.unit === piece.unit
              ? "No usual unit makes it fit. Is this the right part?"
              : `Read as ${piece.guess!.unit} instead of ${piece.unit} it would.`}
          </p>
          {piece.guess!.unit !== piece.unit && (
            <Button className="mt-2" onClick={() => change.mutate(piece.guess!.unit)}>
              Read as {piece.guess!.unit}
            </Button>
          )}
        </Attention>
      )}
      <Block title="Size">
        <table className="w-full text-right">
          <thead className="text-xs text-soft">
            <tr>
              <th />
              <th className="font-normal">mm</th>
              <th className="font-normal">inch</th>
            </tr>
          </thead>
          <tbody className="num text-xs whitespace-nowrap">
            <tr className="border-t border-line/60">
              <td className="py-1 text-left font-sans">scan</td>
              <td data-testid="scan-size">{size(piece.sizeMm, "mm")}</td>
              <td>{size(piece.sizeMm, "inch")}</td>
            </tr>
            {piece.nominalSizeMm && (
              <tr className="border-t border-line/60">
                <td className="py-1 text-left font-sans">nominal</td>
                <td>{size(piece.nominalSizeMm, "mm")}</td>
                <td>{size(piece.nominalSizeMm, "inch")}</td>
              </tr>
            )}
          </tbody>
        </table>
        <p className="mt-1 text-xs text-soft">
          The scan's box is taken in the scanner's own frame and includes stray data.
        </p>
      </Block>
      <Field label="The numbers in the scan file are in">
        <Select value={piece.unit} disabled={busy} onChange={(e) => change.mutate(e.target.value)}>
          {units.map((u) => (
            <option key={u}>{u}</option>
          ))}
        </Select>
      </Field>
      <Block title="Scan">
        <Facts
          rows={[
            ["triangles", count(piece.triangles)],
            ["points", count(piece.vertices)],
            ...piece.remarks.map((r) => ["remark", r] as const),
          ]}
        />
      </Block>
      {nominal ? (
        <Block title="Nominal">
          <Facts
            rows={[
              ["file", nominal.fileName],
              ["faces", count(nominal.faces.length)],
              ["triangles", count(nominal.triangles)],
              ...nominal.remarks.map((r) => ["remark", r] as const),
            ]}
          />
        </Block>
      ) : (
        <Attention>This part has no nominal yet. Drop its STEP, STL, OBJ or PLY file on the window.</Attention>
      )}
    </Worksheet>
  );
}
