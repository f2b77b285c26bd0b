import { useEffect, useState } from "react";
import { useMay, useRelease, useReports } from "../../api/hooks";
import { IssueReports } from "../../register/Signing";
import { useBenchOf } from "../../stage/bench";
import { Button } from "../../ui/parts";
import { VerdictMark } from "../../ui/VerdictMark";
import { Attention, Worksheet } from "../../ui/Worksheet";
import type { StationProps } from "../types";
import { Figures } from "./Figures";
import { Issued } from "./Issued";
import { Layout } from "./Layout";

/** The report as it will be, what it is made of, and those that were issued. */
export function Issue({ piece, plan, busy }: StationProps) {
  const [signing, setSigning] = useState(false);
  const { page, set } = useBenchOf("page", "set");
  const reports = useReports();
  const ready = Boolean(piece.run?.verdict) && !piece.run?.stale;
  const mine = (reports.data ?? []).filter((r) => r.pieceId === piece.id);
  // What the page shows is told by the plan and by what was found.
  const address = `/api/pieces/${piece.id}/report/draft?plan=${plan.number}&of=${piece.run?.compareStage?.deviationsKey ?? ""}`;
  const shown = page !== null;
  useEffect(() => {
    if (shown) {
      set({ page: ready ? address : null });
    }
  }, [shown, ready, address, set]);
  useEffect(() => () => set({ page: null }), [set]);
  return (
    <Worksheet
      title="Issue"
      lead="The report comes by itself from the plan. Look at its page, change what it is made of, issue it."
      action={
        <>
          <Button
            tone="primary"
            className="flex-1"
            disabled={busy || !ready || !plan.releasedBy}
            title={plan.releasedBy ? undefined : `Plan ${plan.number} is not released.`}
            onClick={() => setSigning(true)}
          >
            Issue report
          </Button>
          <Button aria-pressed={shown} disabled={!ready} onClick={() => set({ page: shown ? null : address })}>
            {shown ? "Show the part" : "Show the page"}
          </Button>
        </>
      }
    >
      {piece.run?.verdict && (
        <div className="flex items-center justify-between rounded border border-line p-2">
          <span>Piece {piece.serial}</span>
          <VerdictMark verdict={piece.run.verdict} />
        </div>
      )}
      {piece.run?.stale && (
        <Attention>
          The plan, the nominal or the scan changed since the piece was evaluated. Run the plan again before issuing.
        </Attention>
      )}
      {!plan.releasedBy && <Release partId={piece.partId} number={plan.number} />}
      <Layout piece={piece} plan={plan} busy={busy} />
      <Figures piece={piece} plan={plan} />
      {mine.length > 0 && <Issued reports={mine} />}
      {signing && (
        <IssueReports
          pieces={[piece.id]}
          what={`the report of piece ${piece.serial}`}
          onClose={() => setSigning(false)}
        />
      )}
    </Worksheet>
  );
}

/** What stands between a plan that was changed and its reports: an approver. */
function Release({ partId, number }: { partId: string; number: number }) {
  const mayRelease = useMay("approver");
  const release = useRelease(partId);
  return (
    <Attention>
      Plan {number} is not released: an approver releases it, then its pieces are issued, and every next piece runs by
      itself.
      {mayRelease && (
        <Button className="mt-2" disabled={release.isPending} onClick={() => release.mutate(number)}>
          Release plan {number}
        </Button>
      )}
    </Attention>
  );
}
