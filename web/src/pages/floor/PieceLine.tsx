import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { count, moment } from "../../ui/format";
import { Check, Bar } from "../../ui/parts";
import { VerdictMark } from "../../ui/VerdictMark";

interface Props {
  piece: Schemas["PieceSummary"];
  /** Whether it is among those to be issued; null: it cannot be. */
  chosen: boolean | null;
  onChoose: (chosen: boolean) => void;
}

/** A piece: its picture, how far it is, what is under way with it. */
export function PieceLine({ piece: p, chosen, onChoose }: Props) {
  return (
    <li className="flex items-center border-b border-line bg-panel">
      {chosen !== null && (
        <span className="pl-2">
          <Check checked={chosen} name={`Issue ${p.partNumber} · ${p.serial}`} onChange={onChoose} />
        </span>
      )}
      <Link to={`/pieces/${p.id}`} className="flex min-w-0 flex-1 items-center gap-3 px-2 py-1 hover:bg-tint">
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
          {p.work ? (
            <UnderWay work={p.work} />
          ) : p.verdict ? (
            <VerdictMark verdict={p.verdict} />
          ) : (
            <span className="num text-xs text-soft">{moment(p.createdAt)}</span>
          )}
        </span>
      </Link>
    </li>
  );
}

function UnderWay({ work }: { work: Schemas["JobView"] }) {
  return (
    <span className="block w-36 text-xs">
      <span className="block truncate text-soft">{work.state === "queued" ? "waits for its turn" : work.what}</span>
      <Bar share={work.share} label={work.what} />
    </span>
  );
}
