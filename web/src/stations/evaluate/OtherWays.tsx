import { useState } from "react";
import { useQuery } from "@tanstack/react-query";
import { api, take, type CharacteristicResult, type PieceView, type PlanView } from "../../api/client";
import { plural } from "../../ui/format";
import { writing } from "../../ui/lengths";
import { VerdictMark } from "../../ui/VerdictMark";

interface Props {
  piece: PieceView;
  plan: PlanView;
  row: CharacteristicResult;
}

/** How firm a verdict is: the number again by other criteria, margins, filters and alignments. */
export function OtherWays({ piece, plan, row }: Props) {
  const [open, setOpen] = useState(false);
  const found = useQuery({
    queryKey: ["other-ways", piece.id, piece.run?.compareStage?.deviationsKey, plan.number, row.plan.no],
    enabled: open,
    staleTime: Infinity,
    gcTime: 60_000,
    retry: false,
    queryFn: () =>
      take(api.GET("/api/pieces/{id}/other-ways/{no}", { params: { path: { id: piece.id, no: row.plan.no } } })),
  });
  const { fixed, sign } = writing(row.unit, plan.plan.shown);
  const ways = found.data?.ways ?? [];
  const changing = ways.filter((w) => w.changes).length;
  return (
    <details className="mt-2" onToggle={(e) => setOpen(e.currentTarget.open)}>
      <summary className="cursor-pointer text-soft">
        How firm is the verdict?{" "}
        {row.firmness && row.firmness.tried > 0 && (
          <span className={row.firmness.others.length > 0 ? "text-brass" : ""}>
            {row.firmness.others.length > 0
              ? `${row.firmness.others.length} of ${row.firmness.tried} other ways give another.`
              : `${plural(row.firmness.tried, "other way")}, the same verdict.`}
          </span>
        )}
      </summary>
      {found.isFetching && <p role="status">Measuring in other ways …</p>}
      {found.error && <p className="text-bad">{found.error.message}</p>}
      {found.data && (
        <>
          {/* Where it was tried on the whole piece, the line above says it already. */}
          {!row.firmness?.tried && (
            <p className="mt-1" role="status">
              {ways.length === 0
                ? "It can be found in no other way."
                : changing === 0
                  ? `In ${ways.length} other ways the verdict is the same.`
                  : `In ${changing} of ${ways.length} other ways the verdict is another.`}
            </p>
          )}
          <table className="mt-1 w-full text-right text-xs" aria-label="Other ways">
            <thead className="text-soft">
              <tr>
                <th className="text-left font-normal">way</th>
                <th className="font-normal">{sign}</th>
                <th className="font-normal">U</th>
                <th className="text-left font-normal" />
              </tr>
            </thead>
            <tbody>
              {ways.map((w) => (
                <tr key={w.what} className="border-t border-line/60 align-top">
                  <th scope="row" className="py-0.5 text-left font-normal" title={w.row.remark ?? w.row.method}>
                    {w.what}
                  </th>
                  <td className="num pl-2">{fixed(w.row.measured, row.decimals)}</td>
                  <td className="num pl-2 text-soft">{fixed(w.row.uncertainty, row.decimals)}</td>
                  <td className={`pl-2 text-left ${w.changes ? "font-semibold" : "text-soft"}`}>
                    {w.row.measured === null ? (
                      "not measured"
                    ) : w.changes ? (
                      <VerdictMark verdict={w.row.verdict ?? null} />
                    ) : (
                      "the same"
                    )}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </>
      )}
    </details>
  );
}
