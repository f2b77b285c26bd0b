import type { JobKind, PieceView, PlanView, Schemas } from "../api/client";

/** What every station's worksheet is given. */
export interface StationProps {
  piece: PieceView;
  plan: PlanView;
  nominal: Schemas["NominalView"] | null;
  busy: boolean;
  start: (kind: JobKind) => void;
}
