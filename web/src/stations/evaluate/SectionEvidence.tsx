import { useEffect } from "react";
import type { PieceView, PlanView } from "../../api/client";
import { useSection } from "../../api/comparison";
import { onSheet, partAt, partsOf, type SectionRow } from "../../plan/sections";
import { useBench } from "../../stage/bench";
import { Attention } from "../../ui/Worksheet";

/** A part is found within so much of the place that names it, mm. */
const NEAR = 1;

/** What a dimension in a section rests on: the section square on, its parts lit. */
export function SectionEvidence({ piece, plan, row }: { piece: PieceView; plan: PlanView; row: SectionRow }) {
  const set = useBench((s) => s.set);
  const section = plan.plan.compare?.sections?.find((s) => s.name === row.section) ?? null;
  const { data: sheet = null, error } = useSection(piece, section, plan.plan.compare, true);
  useEffect(() => {
    const places = partsOf(row);
    const picked = sheet
      ? places.map((p) => partAt(sheet.parts, ...onSheet(sheet.frame, p), NEAR)).filter((p) => p >= 0)
      : [];
    const marks = places.length > 0 ? [{ no: row.no, parts: places }] : [];
    set({
      section: section && { plan: section, sheet, asSheet: true, onMove: null, marks, picked, onPick: () => {} },
    });
  }, [set, section, sheet, row]);
  useEffect(() => () => set({ section: null }), [set]);
  return error && <Attention>{error.message}</Attention>;
}
