import { Upload } from "lucide-react";
import { useRef } from "react";
import { Link } from "react-router";
import type { Schemas } from "../api/client";
import { useFloor } from "../api/hooks";
import { useReceiving } from "../shell/receiving";
import { count, moment } from "../ui/format";
import { Button, Columns } from "../ui/parts";
import { VerdictMark, VerdictShape } from "../ui/VerdictMark";

/** Home: what waits, what was judged, the parts with their yield. */
export function FloorPage() {
  const floor = useFloor();
  const offer = useReceiving((s) => s.offer);
  const input = useRef<HTMLInputElement>(null);
  const pieces = floor.data?.pieces ?? [];
  const waiting = pieces.filter((p) => p.state === "waiting");
  const judged = pieces.filter((p) => p.state !== "waiting");
  return (
    <div className="h-full overflow-auto">
      <div className="mx-auto max-w-[1180px] space-y-6 p-6">
        <div className="flex items-center justify-between">
          <h1 className="text-xl font-semibold">Floor</h1>
          <Button tone="primary" onClick={() => input.current?.click()}>
            <Upload size={14} /> Receive files
          </Button>
          <input
            ref={input}
            type="file"
            multiple
            hidden
            aria-label="Files to receive"
            onChange={(e) => {
              offer([...(e.target.files ?? [])]);
              e.target.value = "";
            }}
          />
        </div>
        {floor.error && (
          <p className="text-bad" role="alert">
            {floor.error.message}
          </p>
        )}
        <section>
          <h2 className="mb-2 text-base font-semibold">Parts</h2>
          {floor.data?.parts.length === 0 && (
            <p className="text-soft">No parts yet. Drop the CAD file of a part anywhere on this window to begin.</p>
          )}
          <table className="w-full border-collapse border border-line bg-panel">
            <Columns
              names={["part", "name", "rev", "plan", "waiting", "conforming", "non-conforming", "not proven", "yield"]}
            />
            <tbody>
              {floor.data?.parts.map((p) => (
                <PartRow key={p.id} part={p} />
              ))}
            </tbody>
          </table>
        </section>
        <div className="grid gap-6 md:grid-cols-2">
          <PieceList
            title="Waiting"
            pieces={waiting}
            empty="Nothing waits. Drop a scan anywhere, or capture a piece on the Devices page."
          />
          <PieceList title="Judged" pieces={judged} empty="No piece has been judged yet." />
        </div>
      </div>
    </div>
  );
}

function PartRow({ part: p }: { part: Schemas["PartSummary"] }) {
  const judged = p.conforming + p.nonConforming + p.notProven;
  return (
    <tr className="border-t border-line">
      <td className="num px-3 py-1.5 font-semibold">{p.number}</td>
      <td className="px-3">{p.name}</td>
      <td className="px-3">{p.revision}</td>
      <td className="px-3">
        {p.nominalId ? (
          `${p.characteristicCount} characteristics, revision ${p.planNumber}`
        ) : (
          <span className="text-brass">no nominal yet</span>
        )}
      </td>
      <td className="num px-3">{p.waiting}</td>
      <td className="num px-3">
        <VerdictShape verdict="conforming" /> {p.conforming}
      </td>
      <td className="num px-3">
        <VerdictShape verdict="non-conforming" /> {p.nonConforming}
      </td>
      <td className="num px-3">
        <VerdictShape verdict="not-proven" /> {p.notProven}
      </td>
      <td className="px-3">
        {judged === 0 ? (
          <span className="text-soft">–</span>
        ) : (
          <span className="flex items-center gap-2">
            <span className="h-2 w-24 overflow-hidden rounded bg-line">
              <span className="block h-full bg-good" style={{ width: `${(100 * p.conforming) / judged}%` }} />
            </span>
            <span className="num">{Math.round((100 * p.conforming) / judged)} %</span>
          </span>
        )}
      </td>
    </tr>
  );
}

function PieceList({ title, pieces, empty }: { title: string; pieces: Schemas["PieceSummary"][]; empty: string }) {
  return (
    <section>
      <h2 className="mb-2 text-base font-semibold">
        {title} <span className="num text-soft">{pieces.length}</span>
      </h2>
      {pieces.length === 0 && <p className="text-soft">{empty}</p>}
      <ul className="border border-line bg-panel empty:border-0">
        {pieces.map((p) => (
          <li key={p.id} className="border-t border-line first:border-t-0">
            <Link to={`/pieces/${p.id}`} className="flex items-center gap-3 px-3 py-2 hover:bg-tint">
              <span className="num font-semibold">
                {p.partNumber} · {p.serial}
              </span>
              <span className="text-soft">
                {p.problem ? <span className="text-bad">cannot be read</span> : `${count(p.triangles)} triangles`}
              </span>
              <span className="ml-auto flex items-center gap-3">
                {p.reportNumber && <span className="num text-soft">{p.reportNumber}</span>}
                {p.state === "out-of-date" && (
                  <span className="rounded border border-brass px-1.5 text-xs text-brass">out of date</span>
                )}
                {p.verdict ? (
                  <VerdictMark verdict={p.verdict} />
                ) : (
                  <span className="num text-xs text-soft">{moment(p.createdAt)}</span>
                )}
              </span>
            </Link>
          </li>
        ))}
      </ul>
    </section>
  );
}
