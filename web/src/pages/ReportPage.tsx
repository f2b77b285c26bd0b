import { useQuery } from "@tanstack/react-query";
import { Link, useParams } from "react-router";
import { api, take } from "../api/client";
import { Files } from "../register/Files";
import { stateOf } from "../register/states";
import { moment } from "../ui/format";
import { VerdictMark } from "../ui/VerdictMark";

/** A report by its number, as the code on paper leads to it: whether it holds, what happened to it, the report itself. */
export function ReportPage() {
  const { number = "" } = useParams();
  const record = useQuery({
    queryKey: ["reports", number],
    queryFn: () => take(api.GET("/api/reports/{number}/record", { params: { path: { number } } })),
  });
  if (record.error) {
    return (
      <p className="p-6 text-bad" role="alert">
        {record.error.message}
      </p>
    );
  }

  if (!record.data) {
    return <p className="p-6">Looking …</p>;
  }

  const { report, entries } = record.data;
  return (
    <div className="flex h-full min-h-0 flex-col gap-3 p-4">
      <div
        role="status"
        className={`rounded border-2 bg-panel px-3 py-2 ${report.holds ? "border-line" : "border-bad text-bad"}`}
      >
        <div className="flex flex-wrap items-baseline gap-x-4 gap-y-1">
          <h1 className="num text-xl font-semibold">{report.number}</h1>
          <VerdictMark verdict={report.verdict} />
          <span className="font-semibold">
            {report.holds ? "It holds." : "It does not hold."} {stateOf(report).says}
          </span>
          {report.supersededBy && (
            <Link className="text-indigo underline" to={`/reports/${report.supersededBy}`}>
              Open {report.supersededBy}
            </Link>
          )}
          <span className="ml-auto text-ink">
            <Link className="mr-3 text-indigo underline" to={`/pieces/${report.pieceId}/issue`}>
              {report.partNumber} piece {report.serial}
            </Link>
            <Files report={report} />
          </span>
        </div>
        <ul className="mt-1 flex flex-wrap gap-x-4 text-xs text-soft" aria-label="What happened to it">
          {entries.map((e) => (
            <li key={e.number}>
              {e.event} by {e.who}, {moment(e.at)}, entry <span className="num">{e.number}</span>
            </li>
          ))}
        </ul>
      </div>
      <iframe
        title={`${report.number}, PDF`}
        src={`/api/reports/${report.id}/pdf`}
        className="min-h-0 flex-1 rounded border border-line bg-white"
      />
    </div>
  );
}
