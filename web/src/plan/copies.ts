import type { Schemas } from "../api/client";

export type CopyPlan = Schemas["CopyPlan"];
export type ReportFormat = NonNullable<Schemas["ReportFormat"]>;

/** The files of a report, as links and choices name them; the compiler finds one that is missing. */
export const formatNames: { readonly [F in ReportFormat]: string } = {
  pdf: "PDF",
  html: "HTML",
  csv: "CSV",
  xlsx: "XLSX",
  json: "JSON",
  qif: "QIF",
  note: "Note",
  "note-pdf": "Note, PDF",
};

export const formats = Object.keys(formatNames) as ReportFormat[];

export const copyWhen: { readonly [W in NonNullable<Schemas["CopyWhen"]>]: { name: string } } = {
  always: { name: "of every report" },
  conforming: { name: "when it conforms" },
  open: { name: "when not proven to conform" },
};

/** Where a copy goes. */
export const whereTo = (copy: CopyPlan) =>
  copy.kind === "mail" ? `Mail to ${copy.to}` : copy.name === "" ? "Delivery folder" : `Folder ${copy.name}`;

/** A copy as it begins: with the report, and in a letter the note as its text. */
export const newCopy = (kind: CopyPlan["kind"], to: string): CopyPlan =>
  kind === "mail"
    ? { kind, to: to.trim(), when: "open", files: ["pdf"] }
    : { kind, name: to.trim(), when: "always", files: ["pdf"] };
