import type { PieceView, PlanView, Schemas } from "../api/client";

/** What every station's worksheet is given. */
export interface StationProps {
  piece: PieceView;
  plan: PlanView;
  nominal: Schemas["NominalView"] | null;
  busy: boolean;
  start: (kind: string, transform?: number[], refine?: boolean) => void;
}
