import { useAction, usePlanEdit, usePreview } from "../../api/hooks";
import { api, take, type PrepareStep } from "../../api/client";
import { useBenchOf } from "../../stage/bench";
import { stepsShown, usePreparing } from "../../stage/preparing";
import { count, fixed, plural } from "../../ui/format";
import { say } from "../../ui/notices";
import { Button, Facts } from "../../ui/parts";
import { Attention, Block, Worksheet } from "../../ui/Worksheet";
import { NoNominal } from "../NoNominal";
import type { StationProps } from "../types";
import { AdviceList } from "./AdviceList";
import { LoosePieces } from "./LoosePieces";
import { SelectTools, withSelection } from "./SelectTools";
import { StepForm } from "./StepForm";
import { kindOf, newStep, selectionOf, stepKinds, stepNames, withStep, type StepName } from "./stepKinds";
import { StepList } from "./StepList";
import { Menu } from "../../ui/Choice";

/** From a raw scan to a trustworthy mesh: advice, steps that are kept in the plan, and tools to select what they act on. */
export function Prepare({ piece, plan, nominal, busy, start }: StationProps) {
  const { before, set: setBench } = useBenchOf("before", "set");
  const preparing = usePreparing();
  const { draft, place, trying, terms, set, clear } = preparing;
  const steps = plan.plan.prepare?.steps ?? [];
  const edit = usePlanEdit(piece.partId);
  const kept = usePreview(piece, nominal ? steps : null);
  const tried = usePreview(piece, draft && trying ? stepsShown(steps, preparing) : null);
  const current = draft ? withSelection(draft, terms) : null;
  const save = (next: PrepareStep[]) =>
    edit.mutate({ basedOn: plan.number, plan: { ...plan.plan, prepare: { steps: next } } });
  const keep = useAction(async (step: PrepareStep) => {
    const anchored = await take(
      api.POST("/api/pieces/{id}/anchor", { params: { path: { id: piece.id } }, body: { step } }),
    );
    if (anchored.caution) {
      say(anchored.caution, "bad");
    }

    await edit.mutateAsync({
      basedOn: plan.number,
      plan: {
        ...plan.plan,
        prepare: {
          steps:
            place === null ? withStep(steps, anchored.step) : steps.map((s, i) => (i === place ? anchored.step : s)),
        },
      },
    });
    clear();
  });
  const begin = (kind: StepName) => set({ draft: newStep(kind), place: null, trying: false, tool: null });
  const outcome = tried.data?.record.steps?.at(draft?.kind === "mesh" ? 0 : -1);
  const record = piece.run?.preparation;
  const sheet = kept.data?.sheet;
  const isStale = piece.stations.find((s) => s.key === "prepare")?.state !== "done";

  if (!nominal) {
    return (
      <Worksheet title="Prepare" lead="Steps refer to the nominal.">
        <NoNominal piece={piece} busy={busy} />
      </Worksheet>
    );
  }

  const carriedOut = steps.filter((s) => !s.off).length;
  return (
    <Worksheet
      title="Prepare"
      lead={
        sheet
          ? (sheet.triangles > 0 ? `${count(sheet.triangles)} triangles, ` : "") +
            `${count(sheet.vertices)} points after ${plural(carriedOut, "step")}`
          : "Working the steps out …"
      }
      action={
        <>
          <Button
            tone="primary"
            className="flex-1"
            disabled={busy || piece.vertices === 0 || draft !== null}
            onClick={() => start("prepare")}
          >
            {isStale ? "Prepare" : "Prepare again"}
          </Button>
          <Button
            aria-pressed={before}
            title="Hold, or hold the key B"
            onPointerDown={() => setBench({ before: true })}
            onPointerUp={() => setBench({ before: false })}
            onPointerLeave={() => setBench({ before: false })}
          >
            Hold for before
          </Button>
        </>
      }
    >
      {kept.error && <Attention>{kept.error.message}</Attention>}
      {kept.data && !draft && (
        <AdviceList
          advice={kept.data.advice}
          action={(step) => (
            <Button
              className="mt-1 h-6 px-2 text-xs"
              disabled={busy || edit.isPending}
              onClick={() => set({ draft: step, place: null, trying: true })}
            >
              {kindOf(step.kind).name}
            </Button>
          )}
        />
      )}
      <Block title="Steps">
        <StepList
          steps={steps}
          outcomes={kept.data?.record.steps ?? null}
          disabled={busy || edit.isPending || draft !== null}
          onChange={save}
          onEdit={(i) => set({ draft: steps[i], place: i, terms: selectionOf(steps[i]), trying: false })}
        />
        {!draft && (
          <Menu
            name="Add a step"
            className="mt-2 w-full"
            disabled={busy}
            groups={(["Pieces", "Selection", "Surface", "Repair", "Cloud"] as const).map((group) => ({
              name: group,
              options: stepNames
                .filter((kind) => stepKinds[kind].group === group)
                .map((kind) => ({ value: kind, name: stepKinds[kind].name })),
            }))}
            onPick={begin}
          />
        )}
      </Block>
      {current && (
        <StepForm
          step={current}
          change={(step) => set({ draft: step, trying: false })}
          trying={trying}
          busy={busy || keep.isPending || tried.isFetching}
          said={outcome?.said ?? null}
          caution={outcome?.caution ?? null}
          holes={place === null ? (sheet?.holes ?? []) : []}
          error={trying ? (tried.error?.message ?? null) : null}
          onTry={(on) => set({ trying: on, draft: current, tool: null })}
          onKeep={() => keep.mutate(current)}
          onCancel={clear}
        />
      )}
      {trying && (tried.data?.largestDisplacement ?? 0) > 0 && (
        <p className="text-xs text-soft">
          The stage shows how far each point moved: pale nothing, dark {fixed(tried.data!.largestDisplacement, 4)} mm.
        </p>
      )}
      {(!draft || kindOf(draft.kind).selection) && <SelectTools onUse={begin} />}
      {sheet && <LoosePieces piece={piece} holes={sheet.holes} holeCount={sheet.holeCount} />}
      {record && (
        <Block title="Carried out">
          <Facts
            rows={
              // A cloud has points alone.
              record.trianglesBefore === 0
                ? [
                    ["points before", count(piece.vertices)],
                    ["points after", count(record.steps?.at(-1)?.vertices ?? piece.vertices)],
                  ]
                : [
                    ["triangles before", count(record.trianglesBefore)],
                    ["triangles after", count(record.trianglesAfter)],
                    ["pieces dropped", `${record.piecesDropped} of ${record.piecesFound}`],
                    ["area dropped", `${fixed(record.areaDropped, 1)} mm²`],
                  ]
            }
          />
          <p className="mt-1 text-xs text-soft">The raw scan is kept as it was received.</p>
        </Block>
      )}
    </Worksheet>
  );
}
