import { ChevronDown, ChevronUp } from "lucide-react";
import { useMemo, useRef, useState, type KeyboardEvent } from "react";
import type { CharacteristicView, PieceView, Verdict } from "../api/client";
import { useBench } from "../stage/bench";
import { fixed, signed } from "../ui/format";
import { VerdictMark, VerdictShape, verdictWord } from "../ui/VerdictMark";
import { zone } from "./zone";

type SortKey = "no" | "name" | "verdict" | "beyond";

const severity: Record<Verdict, number> = { "non-conforming": 0, "not-proven": 1, "not-measured": 2, conforming: 3 };
const rank = (r: CharacteristicView) => severity[r.verdict ?? "not-measured"];
const verdicts = Object.keys(severity) as Verdict[];

/** Every characteristic, one row each. Up and down step through them while the stage flies to each. */
export function Ledger({
  piece,
  guardFactor,
  onPick,
}: {
  piece: PieceView;
  /** Width of the guard bands in U; 0 under simple acceptance. */
  guardFactor: number;
  onPick: (row: CharacteristicView) => void;
}) {
  const [open, setOpen] = useState(true);
  const [filter, setFilter] = useState<Verdict | null>(null);
  const [sort, setSort] = useState<SortKey>("no");
  const [height, setHeight] = useState(208);
  const chosen = useBench((s) => s.characteristic);
  const body = useRef<HTMLTableSectionElement>(null);
  const all = useMemo(() => piece.run?.characteristics ?? [], [piece.run]);
  const rows = useMemo(() => sorted(filter ? all.filter((r) => r.verdict === filter) : all, sort), [all, filter, sort]);
  const step = (e: KeyboardEvent, index: number) => {
    const next = e.key === "ArrowDown" ? index + 1 : e.key === "ArrowUp" ? index - 1 : -1;
    if ((e.key === "ArrowDown" || e.key === "ArrowUp") && rows[next]) {
      e.preventDefault();
      onPick(rows[next]);
      body.current?.querySelectorAll<HTMLTableRowElement>("tr")[next]?.focus();
    }

    if (e.key === "Enter" || e.key === " ") {
      e.preventDefault();
      onPick(rows[index]);
    }
  };
  return (
    <section aria-label="Ledger of characteristics" className="border-t border-line bg-panel">
      <div className="flex h-8 items-center gap-3 px-3">
        <button
          type="button"
          className="flex items-center gap-1 font-semibold"
          onClick={() => setOpen(!open)}
          aria-expanded={open}
        >
          {open ? <ChevronDown size={14} /> : <ChevronUp size={14} />} Ledger
        </button>
        <span className="text-soft">
          {all.length > 0
            ? `${all.length} characteristics`
            : "No characteristic is evaluated yet. Run the plan, or walk the path station by station."}
        </span>
        {piece.run?.stale && <span className="rounded border border-brass px-1.5 text-xs text-brass">out of date</span>}
        <div className="ml-auto flex gap-1" hidden={all.length === 0}>
          {verdicts.map((v) => (
            <button
              key={v}
              type="button"
              aria-pressed={filter === v}
              onClick={() => setFilter(filter === v ? null : v)}
              className={`flex items-center gap-1 rounded border px-1.5 text-xs ${filter === v ? "border-indigo bg-tint" : "border-line"}`}
            >
              <VerdictShape verdict={v} size={11} /> {all.filter((r) => r.verdict === v).length} {verdictWord[v]}
            </button>
          ))}
        </div>
        {all.length > 0 && <Grip height={height} onHeight={setHeight} />}
      </div>
      {open && all.length > 0 && (
        <div className="overflow-auto border-t border-line" style={{ height }}>
          <table className="w-full border-collapse text-[13px]">
            <thead className="sticky top-0 z-10 bg-panel text-xs text-soft">
              <tr>
                <Head label="no." by="no" {...{ sort, setSort }} />
                <Head label="characteristic" by="name" left {...{ sort, setSort }} />
                <th className="px-2 text-right font-normal">nominal</th>
                <th className="px-2 text-right font-normal">limits</th>
                <th className="px-2 text-right font-normal">measured</th>
                <th className="px-2 text-right font-normal">deviation</th>
                <th className="w-[150px] px-2 text-left font-normal">zone</th>
                <th className="px-2 text-right font-normal">±U</th>
                <Head label="beyond" by="beyond" {...{ sort, setSort }} />
                <Head label="verdict" by="verdict" left {...{ sort, setSort }} />
              </tr>
            </thead>
            <tbody ref={body}>
              {rows.map((r, i) => (
                <tr
                  key={r.no}
                  tabIndex={0}
                  aria-selected={chosen === r.no}
                  onClick={() => onPick(r)}
                  onKeyDown={(e) => step(e, i)}
                  data-testid={`row-${r.no}`}
                  className={`cursor-pointer border-t border-line/60 ${chosen === r.no ? "bg-tint" : "hover:bg-page"}`}
                >
                  <td className="num px-2 text-right">{r.no}</td>
                  <td className="px-2 py-1">
                    {r.name}{" "}
                    {r.datums.length > 0 && <span className="num text-xs text-soft">{r.datums.join("|")}</span>}
                  </td>
                  <td className="num px-2 text-right">{fixed(r.nominal, r.decimals)}</td>
                  <td className="num px-2 text-right whitespace-nowrap">
                    {r.lowerLimit === null
                      ? `≤ ${fixed(r.upperLimit, r.decimals)}`
                      : `${fixed(r.lowerLimit, r.decimals)} … ${fixed(r.upperLimit, r.decimals)}`}
                  </td>
                  <td className="num px-2 text-right font-semibold" data-testid={`measured-${r.no}`}>
                    {fixed(r.measured, r.decimals)}
                    {r.measured !== null && r.unit === "°" ? "°" : ""}
                  </td>
                  <td className="num px-2 text-right">{r.nominal === null ? "" : signed(r.deviation, r.decimals)}</td>
                  <td className="px-2">
                    <ZoneBar row={r} guardFactor={guardFactor} />
                  </td>
                  <td className="num px-2 text-right">{fixed(r.uncertainty, r.decimals)}</td>
                  <td className="num px-2 text-right">{r.beyond > 0 ? fixed(r.beyond, r.decimals) : ""}</td>
                  <td className="px-2">
                    <VerdictMark verdict={r.verdict} />
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
    </section>
  );
}

function ZoneBar({ row, guardFactor }: { row: CharacteristicView; guardFactor: number }) {
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

interface HeadProps {
  label: string;
  by: SortKey;
  left?: boolean;
  sort: SortKey;
  setSort: (k: SortKey) => void;
}

function Head({ label, by, left, sort, setSort }: HeadProps) {
  return (
    <th
      className={`px-2 font-normal ${left ? "text-left" : "text-right"}`}
      aria-sort={sort === by ? "ascending" : undefined}
    >
      <button type="button" onClick={() => setSort(by)} className={sort === by ? "font-semibold text-ink" : ""}>
        {label}
      </button>
    </th>
  );
}

function Grip({ height, onHeight }: { height: number; onHeight: (h: number) => void }) {
  return (
    <div
      role="separator"
      aria-orientation="horizontal"
      aria-label="Height of the ledger"
      aria-valuenow={height}
      tabIndex={0}
      className="h-4 w-8 cursor-ns-resize border-y-2 border-line"
      onKeyDown={(e) =>
        e.key === "ArrowUp"
          ? onHeight(Math.min(500, height + 24))
          : e.key === "ArrowDown" && onHeight(Math.max(80, height - 24))
      }
      onPointerDown={(e) => {
        const [y, h, element] = [e.clientY, height, e.currentTarget];
        element.setPointerCapture(e.pointerId);
        const move = (m: globalThis.PointerEvent) => onHeight(Math.max(80, Math.min(500, h + y - m.clientY)));
        element.addEventListener("pointermove", move);
        element.addEventListener("pointerup", () => element.removeEventListener("pointermove", move), { once: true });
      }}
    />
  );
}

function sorted(rows: CharacteristicView[], by: SortKey): CharacteristicView[] {
  const order: Record<SortKey, (a: CharacteristicView, b: CharacteristicView) => number> = {
    no: (a, b) => a.no - b.no,
    name: (a, b) => a.name.localeCompare(b.name),
    verdict: (a, b) => rank(a) - rank(b) || a.no - b.no,
    beyond: (a, b) => b.beyond - a.beyond || a.no - b.no,
  };
  return [...rows].sort(order[by]);
}
