import type { Schemas } from "../../api/client";
import { moment } from "../../ui/format";
import { Block } from "../../ui/Worksheet";

/** The reports of a piece, with their files. */
export function Issued({ reports: mine }: { reports: readonly Schemas["ReportView"][] }) {
  return (
    <Block title="Issued">
      <ul>
        {mine.map((r) => (
          <li key={r.id} className="border-t border-line/60 py-1" data-testid="issued">
            <div className="flex justify-between">
              <a
                className="num font-semibold text-indigo underline"
                href={`/api/reports/${r.id}/pdf`}
                target="_blank"
                rel="noreferrer"
              >
                {r.number}
              </a>
              <span className="text-soft">
                {moment(r.issuedAt)}, {r.issuedBy}
              </span>
            </div>
            {r.withdrawnAt && (
              <p className="text-bad">
                Withdrawn by {r.withdrawnBy}: {r.withdrawnWhy}
              </p>
            )}
            <div className="flex gap-3 text-xs">
              <a className="text-indigo underline" href={`/api/reports/${r.id}/csv`}>
                CSV
              </a>
              <a className="text-indigo underline" href={`/api/reports/${r.id}/xlsx`}>
                XLSX
              </a>
              <span className="num truncate text-soft" title={`SHA-256 of the PDF: ${r.pdfSha}`}>
                SHA-256 {r.pdfSha.slice(0, 16)}…
              </span>
            </div>
          </li>
        ))}
      </ul>
    </Block>
  );
}
