import { Upload } from "lucide-react";
import { useRef, useState } from "react";
import { Link } from "react-router";
import type { Schemas } from "../api/client";
import { useFloor } from "../api/hooks";
import { useReceiving } from "../shell/receiving";
import { Button } from "../ui/parts";
import { VerdictShape, verdictWord } from "../ui/VerdictMark";
import { FileChoice } from "../ui/FileChoice";
import { Pieces } from "./floor/Pieces";
import { Trend } from "./floor/Trend";
import { Scroll } from "../ui/Scroll";

/** Home: the parts with their last verdicts, and pieces in lists that hold for thousands. */
export function FloorPage() {
  const floor = useFloor();
  const offer = useReceiving((s) => s.offer);
  const input = useRef<HTMLInputElement>(null);
  const [part, setPart] = useState<string | null>(null);
  const parts = floor.data?.parts ?? [];
  const chosen = parts.find((p) => p.id === part);
  return (
    <Scroll name="Floor" className="h-full">
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
        {chosen && <Trend part={chosen.id} partName={chosen.number} />}
        <Pieces part={part} partName={chosen?.number ?? null} onAll={() => setPart(null)} />
      </div>
    </Scroll>
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
