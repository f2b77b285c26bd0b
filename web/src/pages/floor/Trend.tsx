import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, take, type Schemas } from "../../api/client";
import { writing, type ShownUnit } from "../../ui/lengths";
import { VerdictShape, verdictColour, verdictWord } from "../../ui/VerdictMark";
import { Button } from "../../ui/parts";
import { range } from "./trend";

const few = 8;
const width = 220;
const height = 56;

/** How the numbers of a part went over its last pieces, those that need a look first. */
export function Trend({ part, partName }: { part: string; partName: string }) {
  const [all, setAll] = useState(false);
  const trend = useQuery({
    // Looked at again whenever the floor is.
    queryKey: ["floor", "trend", part],
    queryFn: () => take(api.GET("/api/parts/{id}/trend", { params: { path: { id: part } } })),
  });
  const rows = trend.data?.rows ?? [];
  const told = rows.filter((r) => r.drift);
  const moving = told.filter((r) => r.drift!.standsOut).length;
  return (
    <section aria-label={`Trend of ${partName}`}>
      <div className="mb-2 flex flex-wrap items-baseline gap-2">
        <h2 className="text-base font-semibold">Trend of {partName}</h2>
        {trend.data && rows.length > 0 && (
          <span className="text-soft" role="status">
            {trend.data.pieces.length === 1 ? "one piece" : `the last ${trend.data.pieces.length} pieces`};{" "}
            {told.length === 0
              ? "too few to tell whether a number moves"
              : moving === 0
                ? "no number moves by more than chance"
                : `${moving} of ${told.length} numbers move`}
          </span>
        )}
      </div>
      {trend.error && (
        <p className="text-bad" role="alert">
          {trend.error.message}
        </p>
      )}
      {trend.isPending && <p role="status">Looking at the last pieces …</p>}
      {trend.data && rows.length === 0 && <p className="text-soft">No piece of it has been judged yet.</p>}
      <ul className="grid grid-cols-[repeat(auto-fill,minmax(300px,1fr))] gap-2 empty:hidden">
        {(all ? rows : rows.slice(0, few)).map((r) => (
          <Chart key={r.no} row={r} pieces={trend.data!.pieces} shown={trend.data!.shown} />
        ))}
      </ul>
      {rows.length > few && (
        <Button className="mt-2" onClick={() => setAll(!all)}>
          {all ? "Only those that need a look first" : `All ${rows.length}`}
        </Button>
      )}
    </section>
  );
}

interface ChartProps {
  row: Schemas["TrendRow"];
  pieces: readonly Schemas["RecentVerdict"][];
  shown: ShownUnit;
}

/** One number, piece after piece, between its limits; a stroke through each value is its uncertainty. */
function Chart({ row, pieces, shown }: ChartProps) {
  const [low, high] = range(row);
  const { fixed, signed, sign } = writing(row.unit, shown);
  const y = (value: number) => height - (height * (value - low)) / (high - low);
  const x = (i: number) => (width * (i + 0.5)) / pieces.length;
  const known = row.values.flatMap((v, i) => (v?.measured == null ? [] : [{ ...v, i, measured: v.measured }]));
  const last = known.at(-1);
  return (
    <li className="rounded border border-line bg-panel p-2">
      <p className="flex items-baseline gap-2">
        <span className="num text-soft">{row.no}</span>
        <span className="truncate font-semibold" title={row.name}>
          {row.name}
        </span>
        <span className="num ml-auto whitespace-nowrap">{last && `${fixed(last.measured, row.decimals)} ${sign}`}</span>
      </p>
      <div className="mt-1 flex gap-1">
        <div className="relative min-w-0 flex-1">
          <svg
            width="100%"
            height={height}
            viewBox={`0 0 ${width} ${height}`}
            preserveAspectRatio="none"
            role="group"
            aria-label={row.name}
          >
            <rect
              x="0"
              width={width}
              y={y(row.upper ?? high)}
              height={Math.max(0, y(row.lower ?? (row.upper === null ? low : Math.max(low, 0))) - y(row.upper ?? high))}
              fill="var(--tint)"
            />
            {[row.lower, row.upper].map(
              (limit, k) =>
                limit !== null && (
                  <line
                    key={k}
                    x1="0"
                    x2={width}
                    y1={y(limit)}
                    y2={y(limit)}
                    stroke="var(--soft)"
                    vectorEffect="non-scaling-stroke"
                  />
                ),
            )}
            <polyline
              points={known.map((v) => `${x(v.i)},${y(v.measured)}`).join(" ")}
              fill="none"
              stroke="var(--soft)"
              strokeOpacity="0.5"
              vectorEffect="non-scaling-stroke"
            />
            {known.map((v) => (
              <g key={v.i} stroke={verdictColour[v.verdict]} strokeWidth="1.5">
                {v.uncertainty !== null && (
                  <line
                    x1={x(v.i)}
                    x2={x(v.i)}
                    y1={y(v.measured - v.uncertainty)}
                    y2={y(v.measured + v.uncertainty)}
                    vectorEffect="non-scaling-stroke"
                  />
                )}
              </g>
            ))}
          </svg>
          {known.map((v) => (
            <span
              key={v.i}
              className="absolute flex -translate-1/2"
              style={{ left: `${(100 * x(v.i)) / width}%`, top: y(v.measured) }}
              title={`${pieces[v.i].serial}: ${fixed(v.measured, row.decimals)} ${sign}, ${verdictWord[v.verdict]}`}
            >
              <VerdictShape verdict={v.verdict} size={9} />
            </span>
          ))}
        </div>
        <span className="num relative w-14 shrink-0 text-xs text-soft">
          {[row.lower, row.upper].map(
            (limit, k) =>
              limit !== null && (
                <span key={k} className="absolute right-0 -translate-y-1/2 leading-none" style={{ top: y(limit) }}>
                  {fixed(limit, row.decimals)}
                </span>
              ),
          )}
        </span>
      </div>
      <p className="mt-1 text-xs">
        {row.drift?.standsOut ? (
          <span className="font-semibold text-bad">
            moves by {signed(row.drift.slope, row.decimals + 1)} ± {fixed(row.drift.interval, row.decimals + 1)} {sign}{" "}
            a piece
          </span>
        ) : (
          <span className="text-soft">
            {row.drift ? "moves by no more than chance" : "too few pieces to tell whether it moves"}
          </span>
        )}
        {row.ppk !== null && <span className="num text-soft"> · Ppk {row.ppk.toFixed(2)}</span>}
      </p>
      <ol className="sr-only">
        {pieces.map((p, i) => (
          <li key={p.pieceId}>
            {p.serial}:{" "}
            {row.values[i]
              ? `${fixed(row.values[i].measured, row.decimals)}, ${verdictWord[row.values[i].verdict]}`
              : "not asked"}
          </li>
        ))}
      </ol>
    </li>
  );
}
