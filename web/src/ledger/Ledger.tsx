import { useMemo, useRef, useState, type KeyboardEvent } from "react";
import type { CharacteristicResult, PieceView, PlanView, Verdict } from "../api/client";
import { datumsOf } from "../plan/characteristics";
import { useBench } from "../stage/bench";
import { writing, type ShownUnit } from "../ui/lengths";
import { VerdictMark, VerdictShape, verdictWord } from "../ui/VerdictMark";
import { Head, LedgerFrame, stepping, type FrameProps } from "./LedgerFrame";
import {
  characteristicTable,
  rowsOf,
  rowsWith,
  sorted,
  restsOnChoice,
  choiceSaid,
  type Row,
  type SortKey,
  verdictOf,
  verdicts,
} from "./rows";
import { TableTools } from "./TableTools";
import { zone } from "./zone";

interface Props {
  piece: PieceView;
  plan: PlanView;
  frame: FrameProps;
  onPick: (row: Row) => void;
}

/** Every characteristic of the plan, one row each. Up and down step through them while the stage flies to each. */
export function Ledger({ piece, plan, frame, onPick }: Props) {
  const [filter, setFilter] = useState<Verdict | null>(null);
  const [words, setWords] = useState("");
  const [sort, setSort] = useState<SortKey>("no");
  const chosen = useBench((s) => s.characteristic);
  const body = useRef<HTMLTableSectionElement>(null);
  const all = useMemo(() => rowsOf(plan, piece.run?.characteristics ?? []), [plan, piece.run]);
  const rows = useMemo(
    () => sorted(rowsWith(filter ? all.filter((r) => verdictOf(r) === filter) : all, words), sort),
    [all, filter, words, sort],
  );
  return (
    <LedgerFrame
      {...frame}
      head={
        <>
          <span className="truncate text-soft">
            {all.length > 0
              ? `${all.length} characteristics${plan.plan.shown === "inch" ? ", lengths in inch" : ""}`
              : "The plan has no characteristic yet: pick faces on the Evaluate station and say what is asked of them."}
          </span>
          {piece.run?.stale && (
            <span className="rounded border border-brass px-1.5 text-xs whitespace-nowrap text-brass">
              {piece.run.planNumber !== null && piece.run.planNumber !== piece.planNumber
                ? `out of date: of plan ${piece.run.planNumber}`
                : "out of date"}
            </span>
          )}
          <div className="ml-auto flex items-center gap-1.5" hidden={all.length === 0}>
            <TableTools
              what="characteristics"
              words={words}
              onWords={setWords}
              table={() => characteristicTable(rows)}
              fileName={`${piece.partNumber} ${piece.serial} characteristics.csv`}
            />
            {verdicts.map((v) => (
              <button
                key={v}
                type="button"
                aria-pressed={filter === v}
                aria-label={`${all.filter((r) => verdictOf(r) === v).length} ${verdictWord[v]}: show only these`}
                title={`${verdictWord[v]}: show only these`}
                onClick={() => setFilter(filter === v ? null : v)}
                className={
                  "flex items-center gap-1 rounded border px-1.5 text-xs whitespace-nowrap " +
                  (filter === v ? "border-indigo bg-tint" : "border-line")
                }
              >
                <VerdictShape verdict={v} size={11} /> {all.filter((r) => verdictOf(r) === v).length}
                <span className="hidden @6xl:inline">{verdictWord[v]}</span>
              </button>
            ))}
          </div>
        </>
      }
    >
      {all.length > 0 && (
        <div className="min-h-0 flex-1 overflow-auto border-t border-line" tabIndex={-1}>
          <table className="w-full border-collapse text-[13px]">
            <thead className="sticky top-0 z-10 bg-panel text-xs text-soft">
              <tr>
                <Head label="no." by="no" {...{ sort, setSort }} />
                <Head label="characteristic" by="name" left {...{ sort, setSort }} />
                <th className="px-2 text-right font-normal">limits</th>
                <th className="px-2 text-right font-normal">measured</th>
                <Head label="deviation" by="deviation" {...{ sort, setSort }} />
                <th className="w-[150px] px-2 text-left font-normal">zone</th>
                <th className="px-2 text-right font-normal">±U</th>
                <th className="hidden px-2 text-right font-normal @5xl:table-cell">beyond</th>
                <Head label="verdict" by="verdict" left {...{ sort, setSort }} />
              </tr>
            </thead>
            <tbody ref={body}>
              {rows.map((row, i) => (
                <Line
                  key={row.plan.no}
                  row={row}
                  shown={plan.plan.shown}
                  guardFactor={plan.decision.factor}
                  chosen={chosen === row.plan.no}
                  onPick={() => onPick(row)}
                  onKey={stepping(body.current, rows.length, i, (k) => onPick(rows[k]))}
                />
              ))}
            </tbody>
          </table>
        </div>
      )}
    </LedgerFrame>
  );
}

interface LineProps {
  row: Row;
  shown: ShownUnit | undefined;
  guardFactor: number;
  chosen: boolean;
  onPick: () => void;
  onKey: (e: KeyboardEvent) => void;
}

function Line({ row, shown, guardFactor, chosen, onPick, onKey }: LineProps) {
  const { plan, result } = row;
  const { decimals: d, limits } = row.asked;
  const { fixed, signed, sign } = writing(row.asked.unit, shown);
  const unit = sign === "°" ? sign : "";
  return (
    <tr
      tabIndex={0}
      aria-selected={chosen}
      onClick={onPick}
      onKeyDown={onKey}
      data-testid={`row-${plan.no}`}
      className={`cursor-pointer border-t border-line/60 ${chosen ? "bg-tint" : "hover:bg-page"}`}
    >
      <td className="num px-2 text-right">{plan.no}</td>
      <td className="px-2 py-1">
        {plan.name} {plan.alignment && <span className="text-xs text-soft">in {plan.alignment}</span>}
        {datumsOf(plan).length > 0 && <span className="num text-xs text-soft">{datumsOf(plan).join("|")}</span>}
      </td>
      <td className="num px-2 text-right whitespace-nowrap">
        {limits.lower === null
          ? `≤ ${fixed(limits.upper, d)}`
          : `${fixed(limits.lower, d)} … ${fixed(limits.upper, d)}`}
      </td>
      <td
        className={`num px-2 text-right font-semibold ${row.changed ? "text-soft italic" : ""}`}
        title={row.changed ? "Measured before this characteristic was changed" : undefined}
        data-testid={`measured-${plan.no}`}
      >
        {fixed(result?.measured, d)}
        {result?.measured != null ? unit : ""}
      </td>
      <td className="num px-2 text-right">{limits.nominal === null ? "" : signed(result?.deviation, d)}</td>
      <td className="px-2">{result && <ZoneBar row={result} guardFactor={guardFactor} />}</td>
      <td className="num px-2 text-right">{fixed(result?.uncertainty, d)}</td>
      <td className="num hidden px-2 text-right @5xl:table-cell">
        {result && result.beyond > 0 ? fixed(result.beyond, d) : ""}
      </td>
      <td className="px-2 whitespace-nowrap">
        <VerdictMark verdict={verdictOf(row)} />
        {restsOnChoice(row) && (
          <span
            className="ml-1.5 rounded border border-brass px-1 align-text-bottom text-xs leading-4 text-brass"
            title={choiceSaid(row)}
          >
            by choice
          </span>
        )}
      </td>
    </tr>
  );
}

function ZoneBar({ row, guardFactor }: { row: CharacteristicResult; guardFactor: number }) {
  const z = zone(row, guardFactor);
  const w = (t: number) => 4 + 126 * t;
  if (!z) {
    return <span className="text-xs text-soft">{row.remark ? "no value" : ""}</span>;
  }

  const inside = row.verdict === "conforming";
  return (
    <svg width="134" height="16" aria-hidden="true">
      <rect x={w(z.low)} y="4" width={w(z.high - z.low)} height="8" fill="var(--tint)" stroke="var(--line)" />
      {z.guardLow !== null && (
        <rect
          x={w(z.low)}
          y="4"
          width={Math.max(0, w(z.guardLow - z.low))}
          height="8"
          fill="var(--brass)"
          opacity="0.25"
        />
      )}
      {z.guardHigh !== null && (
        <rect
          x={w(Math.max(z.low, z.guardHigh))}
          y="4"
          width={Math.max(0, w(z.high - Math.max(z.low, z.guardHigh)))}
          height="8"
          fill="var(--brass)"
          opacity="0.25"
        />
      )}
      <line x1={w(z.errorLow)} x2={w(z.errorHigh)} y1="8" y2="8" stroke="var(--ink)" strokeWidth="1.4" />
      <circle cx={w(z.value)} cy="8" r="3.2" fill={inside ? "var(--ink)" : "var(--bad)"} />
    </svg>
  );
}
