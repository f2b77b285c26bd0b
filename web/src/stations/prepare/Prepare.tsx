import { useLoosePieces } from "../../api/hooks";
import { useBench } from "../../stage/bench";
import { count, fixed, size } from "../../ui/format";
import { Button, Facts } from "../../ui/parts";
import { Block, Worksheet } from "../../ui/Worksheet";
import type { StationProps } from "../types";

export function Prepare({ piece, busy, start }: StationProps) {
  const loose = useLoosePieces(piece);
  const { before, set } = useBench();
  const record = piece.run?.preparation;
  const pieces = loose.data?.pieces ?? [];
  const others = pieces.filter((p) => !p.isPart);
  return (
    <Worksheet
      title="Prepare"
      lead={
        pieces.length === 0
          ? loose.isFetching
            ? "Looking for loose pieces …"
            : "A cloud of points: there are no pieces to drop."
          : others.length === 0
            ? "The scan is one connected piece."
            : `${others.length} loose pieces besides the part.`
      }
      action={
        <>
          <Button
            tone="primary"
            className="flex-1"
            disabled={busy || piece.vertices === 0}
            onClick={() => start("prepare")}
          >
            Drop loose pieces
          </Button>
          <Button
            disabled={!record}
            aria-pressed={before}
            onPointerDown={() => set({ before: true })}
            onPointerUp={() => set({ before: false })}
            onPointerLeave={() => set({ before: false })}
            onKeyDown={(e) => e.key === " " && set({ before: true })}
            onKeyUp={() => set({ before: false })}
          >
            Hold for before
          </Button>
        </>
      }
    >
      <Block title="Pieces">
        <table className="w-full text-right">
          <thead className="text-xs text-soft">
            <tr>
              <th className="text-left font-normal">piece</th>
              <th className="font-normal">triangles</th>
              <th className="font-normal">size, mm</th>
            </tr>
          </thead>
          <tbody>
            {pieces.slice(0, 40).map((p, i) => (
              <tr key={p.number} className="border-t border-line/60">
                <td className="py-1 text-left">{p.isPart ? <strong>the part</strong> : `loose ${i}`}</td>
                <td className="num">{count(p.triangles)}</td>
                <td className="num">{size([p.size.x ?? 0, p.size.y ?? 0, p.size.z ?? 0], "mm")}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </Block>
      {record && (
        <Block title="Done">
          <Facts
            rows={[
              ["triangles before", count(record.trianglesBefore)],
              ["triangles after", count(record.trianglesAfter)],
              ["pieces dropped", `${record.piecesDropped} of ${record.piecesFound}`],
              ["area dropped", `${fixed(record.areaDropped, 1)} mm²`],
            ]}
          />
          <p className="mt-1 text-xs text-soft">No point was moved. The raw scan is kept as it was received.</p>
        </Block>
      )}
    </Worksheet>
  );
}
