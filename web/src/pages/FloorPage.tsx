import { Search, Upload } from "lucide-react";
import { useDeferredValue, useRef, useState } from "react";
import { Link } from "react-router";
import type { Schemas } from "../api/client";
import { useFloor, usePieces, type PieceListName } from "../api/hooks";
import { useReceiving } from "../shell/receiving";
import { count, moment } from "../ui/format";
import { Button } from "../ui/parts";
import { OneOf } from "../ui/OneOf";
import { VerdictMark, VerdictShape, verdictWord } from "../ui/VerdictMark";
import { FileChoice } from "../ui/FileChoice";

const lists: { value: PieceListName; name: string; empty: string }[] = [
  { value: "look", name: "Needs a look", empty: "Nothing needs a look: every judged piece conforms or is reported." },
  {
    value: "waiting",
    name: "Waiting",
    empty: "Nothing waits. Drop a scan anywhere, or capture a piece on the Devices page.",
  },
  { value: "judged", name: "Judged", empty: "No piece has been judged yet." },
  { value: "all", name: "All", empty: "There is no piece yet." },
];

/** Home: the parts with their last verdicts, and pieces in lists that hold for thousands. */
export function FloorPage() {
  const floor = useFloor();
  const offer = useReceiving((s) => s.offer);
  const input = useRef<HTMLInputElement>(null);
  const [part, setPart] = useState<string | null>(null);
  const parts = floor.data?.parts ?? [];
  return (
    <div className="h-full overflow-auto" tabIndex={0}>
      <div className="mx-auto max-w-[1400px] space-y-6 p-6">
        <div className="flex items-center justify-between">
          <h1 className="text-xl font-semibold">Floor</h1>
          <Button tone="primary" onClick={() => input.current?.click()}>
            <Upload size={14} /> Receive files
          </Button>
          <FileChoice ref={input} label="Files to receive" multiple onChoose={offer} />
        </div>
        {floor.error && (
          <p className="text-bad" role="alert">
            {floor.error.message}
          </p>
        )}
        {floor.isPending && <p role="status">Looking what is there …</p>}
        {floor.data && parts.length === 0 && (
          <p className="text-soft">No parts yet. Drop the CAD file of a part anywhere on this window to begin.</p>
        )}
        <ul className="grid grid-cols-[repeat(auto-fill,minmax(360px,1fr))] gap-3" aria-label="Parts">
          {parts.map((p) => (
            <PartCard
              key={p.id}
              part={p}
              chosen={part === p.id}
              onChoose={() => setPart(part === p.id ? null : p.id)}
            />
          ))}
        </ul>
        <Pieces part={part} partName={parts.find((p) => p.id === part)?.number ?? null} onAll={() => setPart(null)} />
      </div>
    </div>
  );
}

function PartCard({
  part: p,
  chosen,
  onChoose,
}: {
  part: Schemas["PartSummary"];
  chosen: boolean;
  onChoose: () => void;
}) {
  const judged = p.conforming + p.nonConforming + p.notProven;
  return (
    <li className={`flex gap-3 rounded border bg-panel p-2 ${chosen ? "border-indigo" : "border-line"}`}>
      {p.nominalId ? (
        <img
          src={`/api/nominals/${p.nominalId}/picture`}
          alt=""
          width="112"
          height="84"
          className="shrink-0 rounded bg-[#f7f4ee]"
        />
      ) : (
        <span
          className={
            "flex h-[84px] w-28 shrink-0 items-center justify-center rounded border border-dashed border-brass p-2 " +
            "text-center text-xs text-brass"
          }
        >
          no nominal yet
        </span>
      )}
      <div className="min-w-0 flex-1">
        <p className="flex items-baseline gap-2">
          <span className="num font-semibold">{p.number}</span>
          <span className="truncate">{p.name}</span>
          <span className="ml-auto text-xs whitespace-nowrap text-soft">rev {p.revision}</span>
        </p>
        <p className="text-xs text-soft">
          <Link to={`/parts/${p.id}/plan`} className="underline underline-offset-2">
            plan {p.planNumber}
          </Link>
          , {p.characteristicCount} characteristics
        </p>
        <p
          className="mt-1 flex h-4 items-center gap-0.5"
          aria-label={`The last ${p.recent.length} verdicts`}
          role="img"
        >
          {p.recent.map((r) => (
            <span key={r.pieceId} title={`${r.serial}: ${verdictWord[r.verdict]}`}>
              <VerdictShape verdict={r.verdict} size={12} />
            </span>
          ))}
        </p>
        <p className="mt-0.5 flex items-center gap-2 text-xs">
          <span>
            {judged === 0 ? (
              <span className="text-soft">none judged</span>
            ) : (
              <>
                <span className="num font-semibold">{Math.round((100 * p.conforming) / judged)} %</span> of {judged}{" "}
                conform
              </>
            )}
            {p.waiting > 0 && <span className="text-soft">, {p.waiting} waiting</span>}
          </span>
          <button
            type="button"
            aria-pressed={chosen}
            className="ml-auto rounded border border-line px-1.5 hover:bg-tint aria-pressed:border-indigo aria-pressed:bg-tint"
            onClick={onChoose}
          >
            Only its pieces
          </button>
        </p>
      </div>
    </li>
  );
}

function Pieces({ part, partName, onAll }: { part: string | null; partName: string | null; onAll: () => void }) {
  const [list, setList] = useState<PieceListName>("all");
  const [text, setText] = useState("");
  const search = useDeferredValue(text.trim());
  const pieces = usePieces(list, search, part ?? undefined);
  const shown = pieces.data?.pages.flatMap((p) => p.pieces) ?? [];
  const total = pieces.data?.pages[0]?.total ?? 0;
  return (
    <section aria-label="Pieces">
      <div className="mb-2 flex flex-wrap items-center gap-2">
        <h2 className="text-base font-semibold">Pieces</h2>
        <OneOf label="Which pieces" options={lists} value={list} onChange={setList} />
        {partName && (
          <Button className="h-7 px-2" onClick={onAll}>
            of {partName} ×
          </Button>
        )}
        <span className="num text-soft" role="status">
          {pieces.isPending ? "" : count(total)}
        </span>
        <label className="ml-auto flex h-8 items-center gap-2 rounded border border-line bg-panel px-2">
          <Search size={14} />
          <span className="sr-only">Search pieces</span>
          <input
            className="w-44 bg-transparent outline-none"
            placeholder="serial or part number"
            value={text}
            onChange={(e) => setText(e.target.value)}
          />
        </label>
      </div>
      {pieces.error && (
        <p className="text-bad" role="alert">
          {pieces.error.message}
        </p>
      )}
      {!pieces.isPending && shown.length === 0 && (
        <p className="text-soft">
          {search
            ? `No piece has “${search}” in its serial or part number.`
            : lists.find((l) => l.value === list)!.empty}
        </p>
      )}
      <ul className="grid grid-cols-[repeat(auto-fill,minmax(420px,1fr))] gap-x-3 empty:hidden">
        {shown.map((p) => (
          <PieceLine key={p.id} piece={p} />
        ))}
      </ul>
      {pieces.hasNextPage && (
        <Button className="mt-3" disabled={pieces.isFetchingNextPage} onClick={() => void pieces.fetchNextPage()}>
          {pieces.isFetchingNextPage ? "Getting more …" : `Show more of ${count(total - shown.length)}`}
        </Button>
      )}
    </section>
  );
}

function PieceLine({ piece: p }: { piece: Schemas["PieceSummary"] }) {
  return (
    <li className="border-b border-line bg-panel">
      <Link to={`/pieces/${p.id}`} className="flex items-center gap-3 px-2 py-1 hover:bg-tint">
        {p.runKey ? (
          <img
            src={`/api/pieces/${p.id}/picture?of=${p.runKey}`}
            alt=""
            width="64"
            height="48"
            loading="lazy"
            className="shrink-0 rounded bg-[#f7f4ee]"
          />
        ) : (
          <span className="h-12 w-16 shrink-0 rounded border border-dashed border-line" aria-hidden="true" />
        )}
        <span>
          <span className="num block font-semibold">
            {p.partNumber} · {p.serial}
          </span>
          <span className="block text-xs text-soft">
            {p.problem ? (
              <span className="text-bad">cannot be read</span>
            ) : p.triangles > 0 ? (
              `${count(p.triangles)} triangles`
            ) : (
              `${count(p.vertices)} points`
            )}
            {p.reportNumber && <span className="num"> · {p.reportNumber}</span>}
          </span>
        </span>
        <span className="ml-auto flex items-center gap-3">
          {p.state === "out-of-date" && (
            <span className="rounded border border-brass px-1.5 text-xs whitespace-nowrap text-brass">
              out of date{p.judgedOnPlan !== null && `, of plan ${p.judgedOnPlan}`}
            </span>
          )}
          {p.verdict ? (
            <VerdictMark verdict={p.verdict} />
          ) : (
            <span className="num text-xs text-soft">{moment(p.createdAt)}</span>
          )}
        </span>
      </Link>
    </li>
  );
}
