import { useState } from "react";
import { Link } from "react-router";
import type { Schemas } from "../api/client";
import { useMay, useReports, useSession } from "../api/hooks";
import { moment } from "../ui/format";
import { Button, Columns, Input } from "../ui/parts";
import { VerdictMark } from "../ui/VerdictMark";
import { Files } from "../register/Files";
import { RegisterTools } from "../register/RegisterTools";
import { Countersign, Withdraw } from "../register/Signing";
import { stateOf } from "../register/states";
import { Scroll } from "../ui/Scroll";

/** The register of what was issued. */
export function ReportsPage() {
  const reports = useReports();
  const [text, setText] = useState("");
  const maySign = useMay("approver");
  const me = useSession().data?.user;
  const [signing, setSigning] = useState<{ report: Schemas["ReportView"]; what: "countersign" | "withdraw" } | null>(
    null,
  );
  const rows = (reports.data ?? []).filter((r) =>
    `${r.number} ${r.partNumber} ${r.serial} ${r.issuedBy} ${r.verdict} ${stateOf(r).name}`
      .toLowerCase()
      .includes(text.toLowerCase()),
  );
  return (
    <Scroll name="Reports" className="h-full">
      <div className="mx-auto max-w-[1240px] space-y-4 p-6">
        <div className="flex items-center justify-between">
          <h1 className="text-xl font-semibold">Reports</h1>
          <div className="w-64">
            <Input
              aria-label="Filter the reports"
              placeholder="number, part, piece, verdict …"
              value={text}
              onChange={(e) => setText(e.target.value)}
            />
          </div>
        </div>
        <RegisterTools />
        {rows.length === 0 && (
          <p className="text-soft">
            {reports.isPending ? "Looking …" : "No report matches. Reports are issued at a piece's last station."}
          </p>
        )}
        <table className="w-full border-collapse border border-line bg-panel">
          <Columns
            names={[
              "report",
              "part",
              "piece",
              "verdict",
              "state",
              "plan",
              "issued",
              "by",
              "files",
              ...(maySign ? [""] : []),
            ]}
          />
          <tbody>
            {rows.map((r) => (
              <tr key={r.id} className="border-t border-line">
                <td className="num px-3 py-1.5 font-semibold whitespace-nowrap">
                  <Link className="text-indigo underline" to={`/reports/${r.number}`}>
                    {r.withdrawnAt ? <s>{r.number}</s> : r.number}
                  </Link>
                </td>
                <td className="num px-3 whitespace-nowrap">{r.partNumber}</td>
                <td className="num px-3">
                  <Link className="text-indigo underline" to={`/pieces/${r.pieceId}/issue`}>
                    {r.serial}
                  </Link>
                </td>
                <td className="px-3">
                  <VerdictMark verdict={r.verdict} />
                </td>
                <td className={`px-3 ${r.holds ? "" : "text-bad"}`} title={stateOf(r).says}>
                  {stateOf(r).name}
                </td>
                <td className="num px-3">{r.planNumber}</td>
                <td className="num px-3 whitespace-nowrap">{moment(r.issuedAt)}</td>
                <td className="px-3">{r.issuedBy}</td>
                <td className="px-3 text-xs">
                  <Files report={r} />
                </td>
                {maySign && (
                  <td className="px-3 whitespace-nowrap">
                    {!r.withdrawnAt && !r.supersededBy && !r.countersignedAt && r.issuedBy !== me && (
                      <Button tone="quiet" onClick={() => setSigning({ report: r, what: "countersign" })}>
                        Countersign
                      </Button>
                    )}
                    {!r.withdrawnAt && (
                      <Button tone="quiet" onClick={() => setSigning({ report: r, what: "withdraw" })}>
                        Withdraw
                      </Button>
                    )}
                  </td>
                )}
              </tr>
            ))}
          </tbody>
        </table>
        {signing?.what === "withdraw" && <Withdraw report={signing.report} onClose={() => setSigning(null)} />}
        {signing?.what === "countersign" && <Countersign report={signing.report} onClose={() => setSigning(null)} />}
      </div>
    </Scroll>
  );
}
