import { useQuery } from "@tanstack/react-query";
import { api, take, type PieceView, type Schemas } from "../../api/client";
import { count, fixed, size } from "../../ui/format";
import { Block } from "../../ui/Worksheet";

const SHOWN = 12;

/** The connected pieces of the raw scan, and the holes that are left. */
export function LoosePieces({
  piece,
  holes,
  holeCount,
}: {
  piece: PieceView;
  holes: Schemas["HoleEntry"][];
  holeCount: number;
}) {
  const pieces = useQuery({
    queryKey: ["loose", piece.id, piece.unit, piece.columns],
    enabled: piece.triangles > 0,
    queryFn: () => take(api.GET("/api/pieces/{id}/loose", { params: { path: { id: piece.id } } })),
    staleTime: Infinity,
  });
  const list = pieces.data?.pieces ?? [];
  return (
    <>
      {list.length > 0 && (
        <Block title={`Pieces of the raw scan: ${list.length}`}>
          <table className="w-full text-right text-xs">
            <thead className="text-soft">
              <tr>
                <th className="text-left font-normal">piece</th>
                <th className="font-normal">triangles</th>
                <th className="font-normal">size, mm</th>
              </tr>
            </thead>
            <tbody>
              {list.slice(0, SHOWN).map((p, i) => (
                <tr key={p.number} className="border-t border-line/60">
                  <td className="py-0.5 text-left">{p.isPart ? <strong>the part</strong> : `loose ${i}`}</td>
                  <td className="num">{count(p.triangles)}</td>
                  <td className="num">{size([p.size.x ?? 0, p.size.y ?? 0, p.size.z ?? 0], "mm")}</td>
                </tr>
              ))}
            </tbody>
          </table>
          {list.length > SHOWN && <p className="text-xs text-soft">and {list.length - SHOWN} smaller ones</p>}
        </Block>
      )}
      {holeCount > 0 && (
        <Block title={`Holes and open borders: ${holeCount}`}>
          <p className="num text-xs">
            {holes
              .slice(0, SHOWN)
              .map((h) => fixed(h.diameter, 1))
              .join(", ")}
            {holeCount > SHOWN ? " …" : ""} mm across
          </p>
        </Block>
      )}
    </>
  );
}
