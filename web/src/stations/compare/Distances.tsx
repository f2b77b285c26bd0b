import { useQuery } from "@tanstack/react-query";
import { useEffect } from "react";
import { api, take, type PieceView, type PlanView, type Schemas } from "../../api/client";
import { useBenchOf } from "../../stage/bench";
import { usePick } from "../../stage/picking";
import { fixed } from "../../ui/format";
import { writing } from "../../ui/lengths";
import { Button, Facts } from "../../ui/parts";
import { Block } from "../../ui/Worksheet";

interface Props {
  piece: PieceView;
  plan: PlanView;
  nominal: Schemas["NominalView"];
}

/** How far two places of the scan are apart, and how far the nominal says: a question of the moment, kept nowhere. */
export function Distances({ piece, plan, nominal }: Props) {
  const { places, set } = useBenchOf("places", "set");
  useEffect(() => () => set({ places: [] }), [set]);
  usePick((hit) => {
    if (hit) {
      const place = {
        point: hit.point as number[],
        nominal: (hit.nominal?.point ?? null) as number[] | null,
        face: hit.face,
      };
      set({ places: places.length === 2 ? [place] : [...places, place] });
    }
  });
  const length = writing("mm", plan.plan.shown);
  const write = (value: number) => `${length.fixed(value)} ${length.sign}`;
  const [a, b] = places;
  const asked = useQuery({
    queryKey: ["distance", nominal.id, a, b],
    enabled: b !== undefined,
    queryFn: () =>
      take(api.POST("/api/nominals/{id}/distance", { params: { path: { id: nominal.id } }, body: { a, b } })),
  });
  const found = asked.data;
  const [first, second] = [a?.face, b?.face];
  const between = useQuery({
    queryKey: ["face-distance", piece.id, piece.run?.compareStage?.deviationsKey, first, second],
    enabled: first != null && second != null && first !== second,
    queryFn: () =>
      take(
        api.GET("/api/pieces/{id}/face-distance", {
          params: { path: { id: piece.id }, query: { first: first!, second: second! } },
        }),
      ),
  });
  return (
    <>
      <p role="status">
        {places.length === 0
          ? "Click the first place on the part."
          : places.length === 1
            ? "Click the second place."
            : "Click again to begin anew."}
      </p>
      {asked.error && <p className="text-bad">{asked.error.message}</p>}
      {found && (
        <>
          <Block title="From A to B">
            <Facts
              rows={[
                ["straight, on the scan", write(found.straight)],
                found.onNominal !== null && ["straight, on the nominal", write(found.onNominal)],
                found.onNominal !== null && [
                  "difference",
                  `${length.signed(found.straight - found.onNominal)} ${length.sign}`,
                ],
                ...found.along.map((v, i) => [`along ${"xyz"[i]}`, `${length.signed(v)} ${length.sign}`] as const),
              ]}
            />
          </Block>
          {found.toPlane !== null && (
            <Block title="From A to the face of B">
              <Facts
                rows={[
                  ["square to the nominal's plane", write(found.toPlane)],
                  found.angleDegrees !== null && ["angle between the planes", `${fixed(found.angleDegrees, 3)}°`],
                ]}
              />
            </Block>
          )}
          {between.error && <p className="text-bad">{between.error.message}</p>}
          {between.data && (
            <Block title={`From face ${first} to face ${second}`}>
              <FaceDistances found={between.data} write={write} />
            </Block>
          )}
          <p className="text-soft">
            Of single points, with their noise: for a number with its uncertainty, measure features and ask a distance
            of them.
          </p>
          <Button onClick={() => set({ places: [] })}>Clear</Button>
        </>
      )}
    </>
  );
}

/** From each place of one face to the nearest of the other. */
function FaceDistances({ found, write }: { found: Schemas["FaceDistance"]; write: (value: number) => string }) {
  const rows = [
    ["nearest", (apart: Schemas["Apart"]) => apart.nearest],
    ["mean", (apart: Schemas["Apart"]) => apart.mean],
    ["farthest", (apart: Schemas["Apart"]) => apart.farthest],
  ] as const;
  return (
    <table className="w-full text-right" aria-label="Distance of the faces">
      <thead className="text-xs text-soft">
        <tr>
          <th className="text-left font-normal">place by place</th>
          <th className="font-normal">scan</th>
          <th className="font-normal">nominal</th>
        </tr>
      </thead>
      <tbody>
        {rows.map(([name, of]) => (
          <tr key={name} className="border-t border-line">
            <th scope="row" className="py-0.5 text-left font-normal">
              {name}
            </th>
            <td className="num">{found.measured ? write(of(found.measured)) : "–"}</td>
            <td className="num text-soft">{write(of(found.nominal))}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
