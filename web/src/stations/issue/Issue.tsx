import { useState } from "react";
import type { FigurePlan } from "../../api/client";
import { useMay, usePlanEdit, useReports } from "../../api/hooks";
import { shownMap } from "../../plan/maps";
import { useBenchOf } from "../../stage/bench";
import { moment } from "../../ui/format";
import { Button, Field, Input } from "../../ui/parts";
import { VerdictMark } from "../../ui/VerdictMark";
import { Attention, Block, Worksheet } from "../../ui/Worksheet";
import type { StationProps } from "../types";

/** Figures are kept from the stage in the plan; issuing freezes them, the table and the files' hashes. */
export function Issue({ piece, plan, busy, start }: StationProps) {
  const { view, limits, hideWithin, showEdges, map, set } = useBenchOf(
    "view",
    "limits",
    "hideWithin",
    "showEdges",
    "map",
    "set",
  );
  const [caption, setCaption] = useState("");
  const reports = useReports();
  const edit = usePlanEdit(piece.partId);
  const mayWork = useMay("inspector");
  const figures = plan.plan.figures ?? [];
  const shown = piece.run?.compareStage?.deviationsKey;
  const mine = (reports.data ?? []).filter((r) => r.pieceId === piece.id);
  const save = (next: FigurePlan[]) =>
    edit.mutate({ basedOn: plan.number, plan: { ...plan.plan, figures: next } }, { onSuccess: () => setCaption("") });
  const keep = () => {
    if (view) {
      save([
        ...figures,
        {
          camera: view.figureCamera(),
          showDeviation: true,
          hideWithin,
          showEdges,
          lower: limits.lower,
          upper: limits.upper,
          map,
          labels: plan.plan.compare?.labels ?? [],
          caption: caption.trim() || (map ? `Map ${map}.` : "Deviation of the scan from the nominal."),
        },
      ]);
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
          The plan, the nominal or the scan changed since the piece was evaluated. Run the plan again before issuing.
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
          <Button onClick={keep} disabled={!mayWork || !view || !piece.run?.comparison || edit.isPending}>
            Add figure
          </Button>
        </div>
        <ul className="mt-2 space-y-2">
          {figures.map((f, i) => (
            <li key={i} className="rounded border border-line p-1.5" data-testid="figure">
              {shown && (
                <img
                  src={`/api/pieces/${piece.id}/figures/${i}?plan=${plan.number}&of=${shown}`}
                  alt={`Figure ${i + 1}: ${f.caption ?? ""}`}
                  className="w-full"
                />
              )}
              <div className="mt-1 flex items-center justify-between gap-2">
                <span>
                  {i + 1}. {f.caption}
                </span>
                <span className="flex shrink-0 gap-1">
                  <Button
                    tone="quiet"
                    onClick={() => {
                      view?.look(f.camera);
                      set({
                        limits: { lower: f.lower ?? -0.2, upper: f.upper ?? 0.2 },
                        map: f.map ?? null,
                        mapLimits: {},
                        onlyFaces: shownMap(plan.plan, f.map ?? null)?.faces ?? [],
                      });
                    }}
                  >
                    Show
                  </Button>
                  <Button
                    tone="quiet"
                    disabled={!mayWork || edit.isPending}
                    onClick={() => save(figures.filter((_, k) => k !== i))}
                  >
                    Drop
                  </Button>
                </span>
              </div>
            </li>
          ))}
        </ul>
        <p className="mt-2 text-soft">
          {figures.length === 0
            ? "Without figures of your own the report shows the whole part."
            : "Figures are kept in the plan: every piece's report gets them."}
        </p>
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
      )}
    </Worksheet>
  );
}
