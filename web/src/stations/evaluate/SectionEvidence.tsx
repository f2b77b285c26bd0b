import { useEffect } from "react";
import type { PieceView, PlanView } from "../../api/client";
import { useSection } from "../../api/comparison";
import { onSheet, partsOf, placesOf, type SectionRow } from "../../plan/sections";
import { useBench } from "../../stage/bench";
import type { Evidence } from "../../stage/EvidenceLayer";
import { Attention } from "../../ui/Worksheet";

interface Props {
  piece: PieceView;
  plan: PlanView;
  row: SectionRow;
  evidence: Evidence | null;
}

/** What a row of a section rests on: the section square on, its lines and arcs lit. */
export function SectionEvidence({ piece, plan, row, evidence }: Props) {
  const set = useBench((s) => s.set);
  const section = plan.plan.compare?.sections?.find((s) => s.name === row.section) ?? null;
  const { data: sheet = null, error } = useSection(piece, section, plan.plan.compare, true);
  useEffect(() => {
    const places = partsOf(row);
    const marks = places.length > 0 ? [{ no: row.no, parts: places }] : [];
    // Where the whole cut counts, none of it stands out.
    const whole = row.kind === "profile-of-a-line" && (row.faces ?? []).length === 0;
    const lit =
      sheet && !whole
        ? (evidence?.outlines ?? []).map((run) => placesOf(run).flatMap((p) => onSheet(sheet.frame, p)))
        : [];
    set({ section: section && { plan: section, sheet, asSheet: true, onMove: null, marks, lit, onPick: null } });
  }, [set, section, sheet, row, evidence]);
  useEffect(() => () => set({ section: null }), [set]);
  return error && <Attention>{error.message}</Attention>;
}
