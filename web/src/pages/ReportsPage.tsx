import { useState } from "react";
import { Link } from "react-router";
import { api, take } from "../api/client";
import { useAction, useMay, useReports } from "../api/hooks";
import { moment } from "../ui/format";
import { Button, Columns, Dialog, Field, Input } from "../ui/parts";
import { VerdictMark } from "../ui/VerdictMark";

/** The register of what was issued. */
export function ReportsPage() {
  const reports = useReports();
  const [text, setText] = useState("");
  const mayWithdraw = useMay("approver");
  const [withdrawing, setWithdrawing] = useState<{ id: string; number: string } | null>(null);
  const rows = (reports.data ?? []).filter((r) =>
    `${r.number} ${r.partNumber} ${r.serial} ${r.issuedBy} ${r.verdict}`.toLowerCase().includes(text.toLowerCase()),
  );
  return (
    <div className="h-full overflow-auto" tabIndex={0}>
      <div className="mx-auto max-w-[1180px] space-y-4 p-6">
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
              "plan",
              "issued",
              "by",
              "files",
              "SHA-256 of the PDF",
              ...(mayWithdraw ? [""] : []),
            ]}
          />
          <tbody>
            {rows.map((r) => (
              <tr key={r.id} className="border-t border-line">
                <td className="num px-3 py-1.5 font-semibold whitespace-nowrap">
                  {r.withdrawnAt ? <s>{r.number}</s> : r.number}
                </td>
                <td className="num px-3">{r.partNumber}</td>
                <td className="num px-3">
                  <Link className="text-indigo underline" to={`/pieces/${r.pieceId}/issue`}>
                    {r.serial}
                  </Link>
                </td>
                <td className="px-3">
                  {r.withdrawnAt ? (
                    <span className="text-bad" title={`${r.withdrawnBy}: ${r.withdrawnWhy}`}>
                      withdrawn: {r.withdrawnWhy}
                    </span>
                  ) : (
                    <VerdictMark verdict={r.verdict} />
                  )}
                </td>
                <td className="num px-3">{r.planNumber}</td>
                <td className="num px-3 whitespace-nowrap">{moment(r.issuedAt)}</td>
                <td className="px-3">{r.issuedBy}</td>
                <td className="space-x-2 px-3 whitespace-nowrap">
                  {(["pdf", "csv", "xlsx"] as const).map((f) => (
                    <a
                      key={f}
                      className="text-indigo underline"
                      href={`/api/reports/${r.id}/${f}`}
                      target={f === "pdf" ? "_blank" : undefined}
                      rel="noreferrer"
                    >
                      {f.toUpperCase()}
                    </a>
                  ))}
                </td>
                <td className="num max-w-32 truncate px-3 text-xs text-soft" title={r.pdfSha}>
                  {r.pdfSha}
                </td>
                {mayWithdraw && (
                  <td className="px-3">
                    {!r.withdrawnAt && (
                      <Button tone="quiet" onClick={() => setWithdrawing({ id: r.id, number: r.number })}>
                        Withdraw
                      </Button>
                    )}
                  </td>
                )}
              </tr>
            ))}
          </tbody>
        </table>
        {withdrawing && <Withdraw report={withdrawing} onClose={() => setWithdrawing(null)} />}
      </div>
    </div>
  );
}

/** A report never goes; withdrawn it says why, and the next one of the piece says what it replaces. */
function Withdraw({ report, onClose }: { report: { id: string; number: string }; onClose: () => void }) {
  const [why, setWhy] = useState("");
  const withdraw = useAction(
    () =>
      take(
        api.POST("/api/reports/{id}/withdrawal", { params: { path: { id: report.id } }, body: { why: why.trim() } }),
      ),
    [["reports"], ["piece"], ["floor"]],
  );
  return (
    <Dialog
      open
      title={`Withdraw ${report.number}`}
      about="The report stays in the register, marked withdrawn with your name and reason."
      onClose={onClose}
    >
      <form
        className="space-y-3"
        onSubmit={(e) => {
          e.preventDefault();
          withdraw.mutate(undefined, { onSuccess: onClose });
        }}
      >
        <Field label="Reason">
          <Input value={why} maxLength={1000} onChange={(e) => setWhy(e.target.value)} autoFocus />
        </Field>
        <Button type="submit" tone="primary" disabled={why.trim() === "" || withdraw.isPending}>
          Withdraw the report
        </Button>
      </form>
    </Dialog>
  );
}
