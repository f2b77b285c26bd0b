import { useState } from "react";
import type { FeaturePlan, MeasuredFeature, PieceView } from "../../api/client";
import { useCriteria } from "../../api/hooks";
import { fixed, signed } from "../../ui/format";
import { mainNumber } from "./describe";
import { criteriaOf } from "./FeatureEditor";

/** One feature by every criterion of its kind, side by side: how much the choice matters on this piece. */
export function Criteria({
  piece,
  measuredOn,
  feature,
  kind,
}: {
  piece: PieceView;
  measuredOn: string | null | undefined;
  feature: FeaturePlan;
  kind: string;
}) {
  const [open, setOpen] = useState(false);
  const criteria = criteriaOf(kind);
  const rows = useCriteria(piece, measuredOn, open ? feature : null, criteria);
  return criteria.length < 2 ? null : (
    <details className="mt-2" onToggle={(e) => setOpen(e.currentTarget.open)}>
      <summary className="cursor-pointer text-soft">All criteria side by side</summary>
      <table className="mt-1 w-full text-right text-xs" data-testid="criteria">
        <thead className="text-soft">
          <tr>
            <th className="text-left font-normal">criterion</th>
            <th className="font-normal">{kind === "plane" ? "place, mm" : "diameter"}</th>
            <th className="font-normal">deviation</th>
            <th className="font-normal">U</th>
          </tr>
        </thead>
        <tbody className="num">
          {criteria.map((criterion, i) => {
            const f = rows[i].data?.feature as MeasuredFeature | undefined;
            const n = f && (mainNumber(f) ?? offsetOf(f));
            return (
              <tr key={criterion} className="border-t border-line/60">
                <th scope="row" className="py-0.5 text-left font-sans font-normal">
                  {criterion.replaceAll("-", " ")}
                </th>
                {n ? (
                  <>
                    <td className="pl-2">{fixed(n.value, 4)}</td>
                    <td className="pl-2">{signed(n.value - n.nominal, 4)}</td>
                    <td className="pl-2">{fixed(n.u, 4)}</td>
                  </>
                ) : (
                  <td colSpan={3} className="text-soft">
                    {rows[i].error?.message ?? "measuring …"}
                  </td>
                )}
              </tr>
            );
          })}
        </tbody>
      </table>
    </details>
  );
}

/** How far a plane lies from the nominal one, along the nominal's normal. */
function offsetOf(f: MeasuredFeature) {
  const [m, n] = [f.measured, f.nominal];
  const off = [0, 1, 2].reduce((sum, k) => sum + (m[k] - n[k]) * n[3 + k], 0);
  return { value: off, nominal: 0, u: 2 * f.positionSigma };
}
