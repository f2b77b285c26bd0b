import { useState } from "react";
import { api, take, type FigureState } from "../../api/client";
import { useAction, useFigures, useReports } from "../../api/hooks";
import { useBench } from "../../stage/bench";
import { moment } from "../../ui/format";
import { Button, Field, Input } from "../../ui/parts";
import { VerdictMark } from "../../ui/VerdictMark";
import { Attention, Block, Worksheet } from "../../ui/Worksheet";
import type { StationProps } from "../types";

/** Figures are kept from the stage; issuing freezes them, the table and the files' hashes. */
export function Issue({ piece, busy, start }: StationProps) {
  const { view, limits, hideWithin, showEdges, labels, set } = useBench();
  const [caption, setCaption] = useState("");
  const figures = useFigures(piece.id);
  const reports = useReports();
  const keys = [
    ["figures", piece.id],
    ["piece", piece.id],
  ];
  const add = useAction(
    (state: FigureState) =>
      take(api.POST("/api/pieces/{id}/figures", { params: { path: { id: piece.id } }, body: state })),
    keys,
  );
  const drop = useAction((id: string) => take(api.DELETE("/api/figures/{id}", { params: { path: { id } } })), keys);
  const mine = (reports.data ?? []).filter((r) => r.pieceId === piece.id);
  const keep = () => {
    if (view) {
      const state: FigureState = {
        camera: view.figureCamera(),
        showDeviation: true,
        hideWithin,
        showEdges,
        lower: limits.lower,
        upper: limits.upper,
        labels,
        caption: caption.trim() || "Deviation of the scan from the nominal.",
      };
      add.mutate(state, { onSuccess: () => setCaption("") });
    }
  };
  return (
    <Worksheet
      title="Issue"
      lead="Turn the stage to what the reader must see, and keep it as a figure."
      action={
        <Button
          tone="primary"
          className="flex-1"
          disabled={busy || !piece.run?.verdict || piece.run.stale}
          onClick={() => start("issue")}
        >
          Issue report
        </Button>
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
          The plan or the unit changed since the piece was evaluated. Run the plan again before issuing.
        </Attention>
      )}
      <Block title="Figures">
        <div className="flex items-end gap-2">
          <div className="flex-1">
            <Field label="Caption">
              <Input
                value={caption}
                maxLength={200}
                onChange={(e) => setCaption(e.target.value)}
                placeholder="What the reader sees"
              />
            </Field>
          </div>
          <Button onClick={keep} disabled={!view || !piece.run?.statistics || add.isPending}>
            Add figure
          </Button>
        </div>
        <ul className="mt-2 space-y-2">
          {(figures.data ?? []).map((f, i) => (
            <li key={f.id} className="rounded border border-line p-1.5" data-testid="figure">
              <img
                src={`/api/figures/${f.id}/picture`}
                alt={`Figure ${i + 1}: ${f.state.caption ?? ""}`}
                className="w-full"
              />
              <div className="mt-1 flex items-center justify-between gap-2">
                <span>
                  {i + 1}. {f.state.caption}
                </span>
                <span className="flex shrink-0 gap-1">
                  <Button
                    tone="quiet"
                    onClick={() => {
                      view?.look(f.state.camera);
                      set({
                        limits: { lower: f.state.lower ?? -0.2, upper: f.state.upper ?? 0.2 },
                        labels: (f.state.labels ?? []) as { point: number[]; value: number }[],
                      });
                    }}
                  >
                    Show
                  </Button>
                  <Button tone="quiet" onClick={() => drop.mutate(f.id)}>
                    Drop
                  </Button>
                </span>
              </div>
            </li>
          ))}
        </ul>
        {figures.data?.length === 0 && (
          <p className="mt-2 text-soft">Without figures of your own the report shows the whole part.</p>
        )}
      </Block>
      {mine.length > 0 && (
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
      )}
    </Worksheet>
  );
}
