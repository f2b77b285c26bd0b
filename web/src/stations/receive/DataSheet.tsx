import { Link } from "react-router";
import type { PieceView, PlanView } from "../../api/client";
import { usePlanEdit, useSheet } from "../../api/hooks";
import { count, fixed } from "../../ui/format";
import { Button, Facts } from "../../ui/parts";
import { Block } from "../../ui/Worksheet";
import { AdviceList } from "../prepare/AdviceList";
import { kindOf, withStep } from "../prepare/stepKinds";

/** What the file holds, measured, and what of it would bias a measurement. */
export function DataSheet({ piece, plan, busy }: { piece: PieceView; plan: PlanView; busy: boolean }) {
  const { data, error, isFetching } = useSheet(piece);
  const edit = usePlanEdit(piece.partId);
  const steps = plan.plan.prepare?.steps ?? [];
  const remarks = piece.remarks.map((r) => ["remark", r] as const);
  if (!data) {
    return (
      <Block title="Scan">
        <Facts rows={[["triangles", count(piece.triangles)], ["points", count(piece.vertices)], ...remarks]} />
        {isFetching && <p className="text-xs text-soft">Working the data sheet out …</p>}
        {error && <p className="text-xs text-bad">{error.message}</p>}
      </Block>
    );
  }

  const { sheet: s, advice } = data;
  const cloud = s.triangles === 0;
  return (
    <>
      <AdviceList
        advice={advice}
        action={(step) =>
          steps.some((x) => x.kind === step.kind && !x.off) ? (
            <p className="text-soft">
              The plan does this: see{" "}
              <Link to="../prepare" className="text-indigo underline" relative="path">
                Prepare
              </Link>
              .
            </p>
          ) : (
            <Button
              className="mt-1 h-6 px-2 text-xs"
              disabled={busy || edit.isPending}
              onClick={() =>
                edit.mutate({ basedOn: plan.number, plan: { ...plan.plan, prepare: { steps: withStep(steps, step) } } })
              }
            >
              {kindOf(step.kind).name}: add to the plan
            </Button>
          )
        }
      />
      <Block title="Data sheet">
        <Facts
          rows={[
            ["points", count(s.vertices)],
            !cloud && ["triangles", count(s.triangles)],
            !cloud && ["area", `${fixed(s.area, 0)} mm²`],
            !cloud && [
              "volume",
              s.volume === null ? (s.closed ? "senses disagree" : "not closed") : `${fixed(s.volume, 0)} mm³`,
            ],
            !cloud && ["connected pieces", count(s.pieces)],
            !cloud && ["holes and open borders", count(s.holeCount)],
            s.holeCount > 0 && [
              "the largest",
              s.holes
                .slice(0, 4)
                .map((h) => fixed(h.diameter, 1))
                .join(", ") + " mm",
            ],
            !cloud && ["branching edges", count(s.nonManifoldEdges)],
            !cloud && ["edges of two senses", count(s.flippedEdges)],
            !cloud && ["without area, twice", `${count(s.degenerate)}, ${count(s.duplicate)}`],
            [cloud ? "spacing" : "mean edge", `${fixed(s.meanEdge, 3)} mm`],
            !cloud && ["noise, at most", `${fixed(s.noise, 4)} mm`],
            ...remarks,
          ]}
        />
      </Block>
    </>
  );
}
