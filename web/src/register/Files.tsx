import type { Schemas } from "../api/client";
import { formatNames } from "../plan/copies";

/** The files of a report; the PDF opens beside, the others are saved. */
export const Files = ({ report }: { report: Schemas["ReportView"] }) =>
  report.formats.map((format) => (
    <a
      key={format}
      className="mr-2 inline-block whitespace-nowrap text-indigo underline"
      href={`/api/reports/${report.id}/${format}`}
      target={format === "pdf" ? "_blank" : undefined}
      rel="noreferrer"
      title={format === "pdf" ? `SHA-256 ${report.pdfSha}` : undefined}
    >
      {formatNames[format]}
    </a>
  ));
