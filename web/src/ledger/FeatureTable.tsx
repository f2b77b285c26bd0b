import { useMemo, useRef, useState } from "react";
import type { MeasuredFeature, PieceView, PlanView } from "../api/client";
import { useBench } from "../stage/bench";
import { count, fixed, percent, signed } from "../ui/format";
import { featureRows, featureTable, sortedFeatures, withWords, type FeatureKey } from "./features";
import { Head, LedgerFrame, stepping, type FrameProps } from "./LedgerFrame";
import { TableTools } from "./TableTools";

/** Length and width of a slot. */
const slotSize = ({ kind }: MeasuredFeature, n: readonly number[]) =>
  kind === "slot" ? `${fixed(n[9], 3)} × ${fixed(n[10], 3)}` : "";

const fitted = "Of scatter and number of points alone; device and temperature count where a number is judged";

interface Props {
  piece: PieceView;
  plan: PlanView;
  frame: FrameProps;
  onPick: (id: string, extend: boolean) => void;
}

/** The features of the plan with what was measured of each. Shift picks more than one, to construct from them. */
export function FeatureTable({ piece, plan, frame, onPick }: Props) {
  const [sort, setSort] = useState<FeatureKey>("order");
  const [words, setWords] = useState("");
  const picked = useBench((s) => s.features);
  const body = useRef<HTMLTableSectionElement>(null);
  const now = useBench((s) => s.measured?.feature) as MeasuredFeature | undefined;
  // What was measured just now is newer than the run.
  const all = useMemo(
    () => featureRows(plan.plan, [...((piece.run?.features ?? []) as MeasuredFeature[]), ...(now ? [now] : [])]),
    [plan.plan, piece.run, now],
  );
  const rows = useMemo(() => sortedFeatures(withWords(all, words), sort), [all, words, sort]);
  const measured = all.filter((r) => r.result && !r.result.failure).length;
  return (
    <LedgerFrame
      {...frame}
      head={
        <>
          <span className="truncate text-soft">
            {all.length === 0
              ? "The plan has no feature yet: click faces on the Features station."
              : `${all.length} features, ${measured} measured`}
          </span>
          {all.length > 0 && (
            <div className="ml-auto flex items-center gap-2">
              <TableTools
                what="features"
                words={words}
                onWords={setWords}
                table={() => featureTable(rows)}
                fileName={`${piece.partNumber} ${piece.serial} features.csv`}
              />
            </div>
          )}
        </>
      }
    >
      {all.length > 0 && (
        <div className="min-h-0 flex-1 overflow-auto border-t border-line" tabIndex={-1}>
          <table className="w-full border-collapse text-[13px] whitespace-nowrap" aria-label="Features">
            <thead className="sticky top-0 z-10 bg-panel text-xs text-soft">
              <tr>
                <Head label="feature" by="name" left className="w-1/3" {...{ sort, setSort }} />
                <Head label="kind" by="kind" left {...{ sort, setSort }} />
                <th className="px-2 text-right font-normal">nominal</th>
                <th className="px-2 text-right font-normal">measured</th>
                <Head label="deviation" by="deviation" {...{ sort, setSort }} />
                <th className="px-2 text-right font-normal" title={fitted}>
                  ±U of fit
                </th>
                <Head label="off its place" by="off" {...{ sort, setSort }} />
                <th className="px-2 text-right font-normal" title={fitted}>
                  ±U of fit
                </th>
                <Head label="points" by="points" className="hidden @3xl:table-cell" {...{ sort, setSort }} />
                <Head label="coverage" by="coverage" {...{ sort, setSort }} />
              </tr>
            </thead>
            <tbody ref={body}>
              {rows.map(({ feature: f, result, size, off }, i) => (
                <tr
                  key={f.id}
                  tabIndex={0}
                  aria-selected={picked.includes(f.id)}
                  title={result?.failure ?? undefined}
                  // With Shift more rows are picked, not text.
                  onMouseDown={(e) => e.shiftKey && e.preventDefault()}
                  onClick={(e) => onPick(f.id, e.shiftKey || e.ctrlKey)}
                  onKeyDown={stepping(body.current, rows.length, i, (k) => onPick(rows[k].feature.id, false))}
                  className={`cursor-pointer border-t border-line/60 ${picked.includes(f.id) ? "bg-tint" : "hover:bg-page"}`}
                >
                  <td className={`max-w-0 min-w-40 truncate px-2 py-1 ${f.construction ? "italic" : ""}`}>{f.name}</td>
                  {!result || result.failure ? (
                    <td colSpan={9} className={`px-2 ${result ? "text-bad" : "text-soft"}`}>
                      {result ? `not measured: ${result.failure}` : "not measured yet"}
                    </td>
                  ) : (
                    <>
                      <td className="px-2 text-soft">{result.kind}</td>
                      <td className="num px-2 text-right whitespace-nowrap">
                        {size ? `${size.sign}${fixed(size.nominal, 3)}` : slotSize(result, result.nominal)}
                      </td>
                      <td className="num px-2 text-right font-semibold whitespace-nowrap">
                        {size ? fixed(size.value, 3) : slotSize(result, result.measured)}
                      </td>
                      <td className="num px-2 text-right">{size ? signed(size.value - size.nominal, 3) : ""}</td>
                      <td className="num px-2 text-right text-soft">{size ? fixed(size.u, 4) : ""}</td>
                      <td className="num px-2 text-right">
                        {off === null ? "" : result.kind === "plane" ? signed(off, 3) : fixed(off, 3)}
                      </td>
                      <td className="num px-2 text-right text-soft">{fixed(2 * result.positionSigma, 4)}</td>
                      <td className="num hidden px-2 text-right @3xl:table-cell">{count(result.used)}</td>
                      <td className="num px-2 text-right">{percent(result.coverage)}</td>
                    </>
                  )}
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
    </LedgerFrame>
  );
}
