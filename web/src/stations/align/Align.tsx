import { useDeferredValue, useEffect, useMemo, useRef, useState } from "react";
import type { AlignPlan } from "../../api/client";
import { useAlignmentChanges, usePlanChange, useTrial } from "../../api/hooks";
import { alignmentNames, alignOf, held } from "../../plan/alignments";
import { useBenchOf } from "../../stage/bench";
import { capital, fixed, percent } from "../../ui/format";
import { say } from "../../ui/notices";
import { Button, linkButton } from "../../ui/parts";
import { Attention, Block, Worksheet } from "../../ui/Worksheet";
import { NoNominal } from "../NoNominal";
import type { StationProps } from "../types";
import { AlignEditor } from "./AlignEditor";
import { Alternatives } from "./Alternatives";
import { ByHand } from "./ByHand";
import { Coordinates } from "./Coordinates";
import { Named } from "./Named";
import { middleOf, sameWay, startOf } from "./methods";
import { Pose, TrialPose } from "./Pose";
import { FileChoice } from "../../ui/FileChoice";

export function Align({ piece, plan, nominal, busy, start }: StationProps) {
  const { mutate, isPending: saving } = usePlanChange(piece.partId);
  const { set, alignment } = useBenchOf("set", "alignment");
  // One that was removed, or belongs to another part, is not at work any more.
  const chosen = alignment !== null && alignmentNames(plan.plan).includes(alignment) ? alignment : null;
  const planned: AlignPlan = alignOf(plan.plan, chosen) ?? startOf("all-surfaces");
  // The pose that a person chose is kept in the plan: undone like any edit, and repeated on the next piece and by the command line.
  const keep = (align: AlignPlan) => mutate((p) => held(p, chosen, align), { onSuccess: () => start("align") });
  const file = useRef<HTMLInputElement>(null);
  const own = piece.run?.alignment;
  const a = chosen === null ? own : piece.run?.named.find((n) => n.name === chosen)?.alignment;
  const changes = useAlignmentChanges(piece);
  const [renaming, setRenaming] = useState(false);
  const [hand, setHand] = useState<number[] | null>(null);
  const settled = useDeferredValue(hand);
  // Where the hand has the part, or what the plan asks for and was not carried out yet.
  const tried: AlignPlan | null =
    !nominal || piece.vertices === 0 || busy
      ? null
      : settled
        ? { method: "as-given", start: settled }
        : (a && !sameWay(a.how, planned)) || (chosen !== null && own && !a)
          ? planned
          : null;
  const trial = useTrial(piece, plan.number, chosen, tried, false);
  const judged = useTrial(piece, plan.number, chosen, trial.data?.alignment.resembles && a ? tried : null, true);
  const pose = trial.data && tried ? trial.data.alignment.transform : null;
  useEffect(() => {
    if (!hand) {
      set({ trialPose: pose });
    }
  }, [pose, hand, set]);
  useEffect(() => () => set({ trialPose: null }), [set]);
  const centre = useMemo<[number, number, number]>(() => middleOf(nominal?.faces ?? []), [nominal]);
  const load = async (chosen: File | undefined) => {
    if (!chosen) {
      return;
    }

    try {
      const { transform } = JSON.parse(await chosen.text()) as { transform?: number[] };
      if (!Array.isArray(transform) || transform.length !== 16 || transform.some((v) => typeof v !== "number")) {
        throw new Error();
      }

      keep({ method: "as-given", start: transform });
    } catch {
      say(`${chosen.name}: is not a transform file with 16 numbers under 'transform'.`, "bad");
    }
  };
  return (
    <Worksheet
      title="Align"
      lead="Bring the scan onto its nominal, from any pose."
      action={
        <>
          <Button
            tone="primary"
            className="w-full"
            disabled={busy || !nominal || piece.vertices === 0}
            onClick={() => start("align")}
          >
            {!own ? "Align" : tried && !hand ? "Align this way" : "Align again"}
          </Button>
          <a
            className={`${linkButton} ${a ? "" : "pointer-events-none opacity-45"}`}
            href={`/api/pieces/${piece.id}/transform${chosen === null ? "" : `?alignment=${encodeURIComponent(chosen)}`}`}
            aria-disabled={!a}
          >
            Save transform
          </a>
          <Button onClick={() => file.current?.click()} disabled={busy || piece.vertices === 0}>
            Load transform
          </Button>
          <FileChoice ref={file} label="Transform file" accept=".json" onChoose={([f]) => void load(f)} />
        </>
      }
    >
      {!nominal && <NoNominal piece={piece} busy={busy} />}
      {nominal?.isReference && (
        <Coordinates partId={piece.partId} nominal={nominal} disabled={busy} open={!own} onSet={() => start("align")} />
      )}
      {a?.problem && (
        <Attention>
          <p className="text-bad">{a.problem}</p>
          <p>
            No verdict is given. {!a.mirrored && "Check that the scan belongs to this part and that its unit is right."}
          </p>
        </Attention>
      )}
      {nominal && (
        <>
          <Named
            plan={plan.plan}
            chosen={chosen}
            change={changes.data?.find((c) => c.name === chosen)?.change ?? null}
            disabled={busy || renaming}
            onChoose={(name) => {
              setHand(null);
              set({ alignment: name });
            }}
            onChange={(change, name) => {
              // What is chosen meanwhile would be put into another alignment than the one that is seen.
              setRenaming(true);
              mutate(change, {
                onSuccess: () => set({ alignment: name }),
                onSettled: () => setRenaming(false),
              });
            }}
          />
          <AlignEditor
            key={chosen ?? ""}
            plan={plan.plan}
            align={planned}
            transform={a?.transform ?? null}
            disabled={busy || renaming}
            onChange={(to) => mutate((p) => held(p, chosen, to(alignOf(p, chosen) ?? startOf("all-surfaces"))))}
          />
        </>
      )}
      {planned.method === "as-given" && nominal && piece.vertices > 0 && (
        <Block title="By hand">
          <ByHand
            key={a?.transform.join() ?? "none"}
            pose={planned.start ?? a?.transform ?? []}
            center={centre}
            disabled={busy}
            waiting={trial.isFetching}
            lies={
              trial.data
                ? `RMS ${fixed(trial.data.alignment.rms, 3)} mm, ${percent(trial.data.alignment.coverage)} covered`
                : null
            }
            onMove={setHand}
            onKeep={(pose) => keep({ method: "as-given", start: pose })}
          />
        </Block>
      )}
      {trial.isPending && tried && <p role="status">Trying …</p>}
      {trial.error && tried && <Attention>{trial.error.message}</Attention>}
      {trial.data && tried && <TrialPose of={judged.data ?? trial.data} judging={judged.isFetching} />}
      {a && (
        <>
          <Block title="How well it lies">
            <p className="mb-1" data-testid="align-method">
              {capital(a.method)}
            </p>
            <Pose of={a} />
          </Block>
          {chosen === null && a.alternatives.length > 0 && (
            <Alternatives
              pieceId={piece.id}
              alignment={a}
              canTake={!busy && !saving && "prefer" in startOf(planned.method)}
              onTake={(prefer) => keep({ ...planned, prefer } as AlignPlan)}
            />
          )}
          <Block title="Transform, scan to nominal (mm)">
            <table className="num w-full text-right text-xs" data-testid="transform">
              <tbody>
                {[0, 1, 2, 3].map((r) => (
                  <tr key={r}>
                    {[0, 1, 2, 3].map((c) => (
                      <td key={c} className="py-0.5 pl-1">
                        {fixed(a.transform[4 * r + c], c === 3 && r < 3 ? 4 : 6)}
                      </td>
                    ))}
                  </tr>
                ))}
              </tbody>
            </table>
          </Block>
        </>
      )}
    </Worksheet>
  );
}
