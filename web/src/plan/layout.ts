import type { ReportBlock, ReportPlan } from "../api/client";

export type BlockKind = ReportBlock["kind"];

/** Every kind of part of a report, and which fit half a page; the compiler finds one that is missing. */
export const blockKinds: { readonly [K in BlockKind]: { name: string; says: string; narrow?: true } } = {
  summary: { name: "Verdict", says: "in a sentence, with what does not conform" },
  overview: { name: "Overview", says: "the part from two sides, a balloon for each row" },
  table: { name: "Characteristics", says: "the table" },
  evidence: { name: "Evidence", says: "a figure for each row that does not conform" },
  figures: { name: "Figures", says: "those kept in the plan, and of its maps" },
  sections: { name: "Sections", says: "those of the plan" },
  deviation: { name: "Surface deviation", says: "statistics, and areas beyond the band" },
  explained: { name: "Explained", says: "what the deviation is made of" },
  maps: { name: "Further maps", says: "their statistics" },
  alignment: { name: "Alignment", says: "how the scan was held", narrow: true },
  preparation: { name: "Data", says: "what was done to the scan", narrow: true },
  rules: { name: "Rules", says: "standards, uncertainty, decision", narrow: true },
  note: { name: "Note", says: "a text of your own", narrow: true },
  picture: { name: "Picture", says: "one of your own", narrow: true },
  page: { name: "New page", says: "what follows begins on one" },
  signatures: { name: "Signatures", says: "places to sign" },
};

/** A part as it begins. */
export const newBlock = (kind: BlockKind): ReportBlock =>
  (kind === "note" ? { kind, title: "Note", text: "" } : { kind }) as ReportBlock;

/** A list with one of its parts elsewhere. */
export function movedTo<T>(list: readonly T[], from: number, to: number): T[] {
  const rest = list.filter((_, i) => i !== from);
  return [...rest.slice(0, to), list[from], ...rest.slice(to)];
}

/** A layout with other parts; with the usual ones and nothing of its own there is none to keep. */
export const withBlocks = (report: ReportPlan | null | undefined, blocks: readonly ReportBlock[]): ReportPlan => ({
  ...report,
  blocks: [...blocks],
});
