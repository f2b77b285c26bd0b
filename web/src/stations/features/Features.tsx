import { useCallback, useEffect, useState } from "react";
import { api, take, type FeaturePlan, type MeasuredFeature } from "../../api/client";
import { useAction, usePlanChange } from "../../api/hooks";
import { useBench, useBenchOf } from "../../stage/bench";
import { pickedFaces, usePick, type PickHandler } from "../../stage/picking";
import { count } from "../../ui/format";
import { NumberField } from "../../ui/NumberField";
import { Button, Field } from "../../ui/parts";
import { Attention, Block, Worksheet } from "../../ui/Worksheet";
import type { StationProps } from "../types";
import { Datums } from "./Datums";
import { describeFace } from "./describe";
import { FeatureEditor, criteriaOf, type CriterionName } from "./FeatureEditor";
import { Measured } from "./Measured";
import { Choice } from "../../ui/Choice";

const sameFaces = (a: readonly number[], b: readonly number[]) => [...a].sort().join() === [...b].sort().join();

/** Clicking a face of the nominal measures it; what belongs to the plan is edited here, and made a datum. */
export function Features({ piece, plan, nominal, busy, start }: StationProps) {
  const { faces, measured, set } = useBenchOf("faces", "measured", "set");
  const [criterion, setCriterion] = useState<CriterionName>("least-squares");
  const [margin, setMargin] = useState<number | null>(null);
  const { mutate: change, isPending: saving } = usePlanChange(piece.partId);
  const compared = piece.run?.comparison != null;
  const first = nominal?.faces[faces[0]];
  const features = plan.plan.features ?? [];
  const known = features.find((f) => sameFaces(f.faces, faces));
  const [choosing, setChoosing] = useState<string | null>(null);
  const edited = features.find((f) => f.id === choosing);
  const measure = useAction(async (feature: FeaturePlan) => {
    const found = await take(
      api.POST("/api/pieces/{id}/measure", { params: { path: { id: piece.id } }, body: { feature } }),
    );
    set({ measured: found, evidence: found.evidence });
  });
  const { mutate, error } = measure;
  const formed: FeaturePlan = {
    id: "picked",
    name: first ? describeFace(first) : "",
    faces,
    criterion,
    edgeMargin: margin,
    searchDistance: 1,
  };
  // A feature of the plan is measured as the plan says, anything else as the form does; again when what it is measured on is another.
  const wanted = faces.length > 0 && compared && nominal ? JSON.stringify(known ?? formed) : null;
  const measuredOn = piece.run?.compareStage?.deviationsKey;
  useEffect(() => {
    set({ measured: null, evidence: null });
    if (wanted) {
      mutate(JSON.parse(wanted) as FeaturePlan);
    }
  }, [wanted, measuredOn, mutate, set]);
  useEffect(() => () => set({ measured: null, evidence: null }), [set]);
  const editFeature = useCallback(
    (id: string, to: (f: FeaturePlan) => FeaturePlan) =>
      change((p) => ({ ...p, features: p.features?.map((f) => (f.id === id ? to(f) : f)) })),
    [change],
  );
  usePick(
    useCallback<PickHandler>(
      (hit, extend) => {
        if (hit?.face == null) {
          return;
        }

        const next = pickedFaces(useBench.getState().faces, hit.face, extend || choosing !== null);
        set({ faces: next });
        if (choosing !== null && next.length > 0) {
          editFeature(choosing, (f) => ({ ...f, faces: next }));
        }
      },
      [set, choosing, editFeature],
    ),
  );
  const add = useAction(async () => {
    const made = await take(
      api.POST("/api/parts/{id}/plan/feature", { params: { path: { id: piece.partId } }, body: { faces } }),
    );
    change((p) => ({ ...p, features: [...(p.features ?? []), { ...made, criterion, edgeMargin: margin }] }));
  });
  const shown = edited ?? known;
  const rows = (piece.run?.features ?? []) as MeasuredFeature[];
  return (
    <Worksheet
      title="Features"
      lead={
        compared
          ? "Click a face of the nominal to measure it. Shift-click adds a face of the same surface."
          : "Click faces to make features and datums of them; they are measured once the scan is aligned and compared."
      }
      action={
        first && !shown ? (
          <Button
            tone="primary"
            className="flex-1"
            disabled={busy || saving || add.isPending}
            onClick={() => add.mutate(undefined)}
          >
            Add to the plan
          </Button>
        ) : (
          !compared && (
            <Button tone="primary" className="flex-1" disabled={busy || !nominal} onClick={() => start("run-plan")}>
              Run plan
            </Button>
          )
        )
      }
    >
      {first && (
        <Block title={faces.length === 1 ? `Face ${faces[0]}` : `${faces.length} faces`}>
          <p className="mb-2 font-semibold first-letter:uppercase">{describeFace(first)}</p>
          {shown ? (
            <FeatureEditor
              key={shown.id}
              feature={shown}
              kind={first.kind}
              plan={plan.plan}
              choosing={choosing === shown.id}
              onChoose={(on) => setChoosing(on ? shown.id : null)}
              disabled={busy}
              onEdit={(to) => editFeature(shown.id, to)}
              onChange={change}
            />
          ) : (
            <div className="mb-2 grid grid-cols-2 gap-2">
              <Field label="Association criterion">
                <Choice
                  value={criterion}
                  options={criteriaOf(first.kind).map((value) => ({ value, name: value.replaceAll("-", " ") }))}
                  onChange={setCriterion}
                />
              </Field>
              <NumberField label="Edge margin, mm" value={margin} empty="automatic" min={0} onChange={setMargin} />
            </div>
          )}
          {measured && (
            <Measured
              feature={measured.feature as MeasuredFeature}
              residuals={measured.residuals}
              missing={measured.evidence.missing.length / 3}
            />
          )}
          {measure.isPending && <p role="status">Measuring …</p>}
          {error && !measured && <Attention>{error.message}</Attention>}
        </Block>
      )}
      <Datums plan={plan.plan} known={known ?? null} disabled={busy} onChange={change} />
      <Block title={`Features of the plan: ${features.length}`}>
        <ul>
          {features.map((f) => {
            const row = rows.find((r) => r.plan.id === f.id);
            return (
              <li key={f.id} className="border-t border-line/60">
                <button
                  type="button"
                  aria-pressed={known?.id === f.id}
                  className="flex w-full justify-between gap-2 py-1 text-left hover:bg-tint aria-pressed:bg-tint"
                  onClick={() => {
                    setChoosing(null);
                    set({ faces: [...f.faces] });
                  }}
                >
                  <span>{f.name}</span>
                  <span className={row?.failure ? "text-bad" : "num text-soft"}>
                    {row ? (row.failure ? "not measured" : `${count(row.used)} pts`) : "–"}
                  </span>
                </button>
              </li>
            );
          })}
        </ul>
      </Block>
    </Worksheet>
  );
}
