import { useMutation } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState } from "react";
import { api, take, type ConstructionPlan, type FeaturePlan, type MeasuredFeature } from "../../api/client";
import { useAction, useAlike, useEdges, usePlanChange } from "../../api/hooks";
import { planFeatures } from "../../plan/features";
import { useBench, useBenchOf } from "../../stage/bench";
import { pickedFaces, usePick, type PickHandler } from "../../stage/picking";
import { say } from "../../ui/notices";
import { OneOf } from "../../ui/OneOf";
import { Button } from "../../ui/parts";
import { Attention, Block, Worksheet } from "../../ui/Worksheet";
import { Proposals, type Proposal } from "../evaluate/Proposals";
import type { StationProps } from "../types";
import { Construct, ConstructionEditor } from "./Construct";
import { Criteria } from "./Criteria";
import { Datums } from "./Datums";
import { describeFace } from "./describe";
import { FeatureEditor, type CriterionName } from "./FeatureEditor";
import { Measured } from "./Measured";
import { PickedForm } from "./PickedForm";

const sameFaces = (a: readonly number[], b: readonly number[]) => [...a].sort().join() === [...b].sort().join();

/**
 * Clicking a face of the nominal measures it; what belongs to the plan is edited here, made a datum, and made into
 * others.
 */
export function Features({ piece, plan, nominal, busy, start }: StationProps) {
  const {
    faces,
    features: picked,
    pickOn,
    measured,
    set,
  } = useBenchOf("faces", "features", "pickOn", "measured", "set");
  const [criterion, setCriterion] = useState<CriterionName>("least-squares");
  const [margin, setMargin] = useState<number | null>(null);
  const [edgeId, setEdge] = useState<string | null>(null);
  const { mutate: change, isPending: saving } = usePlanChange(piece.partId);
  const compared = piece.run?.comparison != null;
  const onScan = compared && pickOn === "scan";
  const first = nominal?.faces[faces[0]];
  const all = planFeatures(plan.plan);
  const chosen = picked.map((id) => all.find((f) => f.id === id)).filter((f) => f !== undefined);
  const known =
    chosen.length === 1
      ? chosen[0]
      : chosen.length > 1
        ? null
        : faces.length > 0
          ? all.find((f) => f.measured && sameFaces(f.faces, faces))
          : undefined;
  const [asking, setChoosing] = useState<string | null>(null);
  // Choosing faces ends when another feature is picked.
  const choosing = picked.length === 0 || picked[0] === asking ? asking : null;
  const edited = all.find((f) => f.id === choosing);
  const asked = useRef<string | null>(null);
  // What cannot be measured is said in its place below, and nowhere else.
  const measure = useMutation({
    mutationFn: async (of: { feature: FeaturePlan } | { construction: ConstructionPlan }) => {
      const found = await take(api.POST("/api/pieces/{id}/measure", { params: { path: { id: piece.id } }, body: of }));
      // Something else may have been picked meanwhile.
      if (asked.current === JSON.stringify(of)) {
        set({ measured: found, evidence: found.evidence });
      }
    },
  });
  const { mutate, error } = measure;
  const edges = useEdges(piece.partId, plan.number, nominal && chosen.length < 2 && !known?.construction ? faces : []);
  // What was picked on the scan and is no feature of the plan yet.
  const [grown, setGrown] = useState<FeaturePlan | null>(null);
  const region = known || faces.length > 0 || chosen.length > 0 ? null : grown;
  // The edges that picked walls make; or, of a picked side of a sheet, all that it has.
  const [sides, ofWalls] = [true, false].map((side) =>
    (edges.data ?? []).filter((e) => (faces.length === 1 && e.edgeOf === faces[0]) === side),
  );
  const edge = (!known && ofWalls.find((e) => e.id === edgeId)) || null;
  // Those that the plan has not, beside a feature that it has.
  const moreEdges = ofWalls.filter(
    (e) => known && !all.some((f) => f.measured?.edgeOf === e.edgeOf && sameFaces(f.faces, e.faces)),
  );
  const formed: FeaturePlan = (region && { ...region, criterion, edgeMargin: margin }) ??
    edge ?? {
      id: "picked",
      name: first ? describeFace(first) : "",
      faces,
      criterion,
      edgeMargin: margin,
      searchDistance: 1,
    };
  // A feature of the plan is measured as the plan says, anything else as the form does; again when what it is measured on is another.
  const of = known?.construction ? { construction: known.construction } : { feature: known?.measured ?? formed };
  const ownRegion = known?.measured?.region ?? region?.region ?? null;
  const wanted =
    (faces.length > 0 || ownRegion) && chosen.length < 2 && compared && nominal ? JSON.stringify(of) : null;
  const kind = ownRegion?.kind ?? first?.kind ?? null;
  const standing = known?.alignment ?? null;
  const measuredOn = (
    standing === null ? piece.run?.ownStage : piece.run?.named.find((n) => n.name === standing)?.stage
  )?.deviationsKey;
  useEffect(() => {
    asked.current = wanted;
    set({ measured: null, evidence: null });
    if (wanted) {
      mutate(JSON.parse(wanted) as { feature: FeaturePlan });
    }
  }, [wanted, measuredOn, mutate, set]);
  useEffect(() => () => set({ measured: null, evidence: null, pickOn: "nominal" }), [set]);
  const editFeature = useCallback(
    (id: string, to: (f: FeaturePlan) => FeaturePlan) =>
      change((p) => ({ ...p, features: p.features?.map((f) => (f.id === id ? to(f) : f)) })),
    [change],
  );
  const growing = useMutation({
    mutationFn: async (at: number[]) => {
      const found = await take(
        api.POST("/api/pieces/{id}/region", { params: { path: { id: piece.id } }, body: { at } }),
      );
      set({ faces: [], features: [] });
      setGrown(found);
    },
  });
  const { mutate: grow } = growing;
  usePick(
    useCallback<PickHandler>(
      (hit, extend) => {
        if (onScan) {
          if (hit?.on === "scan") {
            grow(hit.point);
          }

          return;
        }

        if (hit?.face == null) {
          return;
        }

        const next = pickedFaces(useBench.getState().faces, hit.face, extend || choosing !== null);
        set({ faces: next, features: [] });
        if (choosing !== null && next.length > 0) {
          editFeature(choosing, (f) => ({ ...f, faces: next }));
        }
      },
      [set, choosing, editFeature, onScan, grow],
    ),
  );
  const add = useAction(async () => {
    const made = (region && formed) ??
      edge ?? {
        ...(await take(
          api.POST("/api/parts/{id}/plan/feature", { params: { path: { id: piece.partId } }, body: { faces } }),
        )),
        criterion,
        edgeMargin: margin,
      };
    change((p) => ({ ...p, features: [...(p.features ?? []), made] }), {
      onSuccess: () => region && set({ features: [made.id] }),
    });
  });
  const construct = (made: ConstructionPlan) =>
    change((p) => ({ ...p, constructions: [...(p.constructions ?? []), made] }), {
      onSuccess: () => set({ features: [made.id] }),
    });
  const ask = (p: Proposal) =>
    change((now) => ({ ...now, characteristics: [...(now.characteristics ?? []), p.characteristic] }), {
      onSuccess: () => say(`Characteristic ${p.characteristic.no} is in the plan: ${p.characteristic.name}.`),
    });
  const shown = edited ?? known ?? null;
  const alike = useAlike(
    piece.partId,
    plan.number,
    faces.length > 0 && chosen.length < 2 && first ? faces[0] : null,
    known?.measured?.edgeOf ?? edge?.edgeOf,
  );
  const addAll = (made: readonly FeaturePlan[]) =>
    change((p) => ({ ...p, features: [...(p.features ?? []), ...made] }), {
      onSuccess: () => say(`${made.length} features are in the plan.`),
    });
  const sources = chosen.length > 0 ? chosen : known ? [known] : [];
  return (
    <Worksheet
      title="Features"
      lead={leadOf(compared, onScan)}
      action={
        (first || region) && !shown && chosen.length === 0 ? (
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
      {compared && nominal && (
        <div className="mb-2 flex items-center justify-between gap-2">
          <span>Clicks pick</span>
          <OneOf
            label="Clicks pick"
            options={[
              { value: "nominal", name: "faces of the nominal" },
              { value: "scan", name: "the scan itself" },
            ]}
            value={pickOn}
            onChange={(to) => set({ pickOn: to })}
          />
        </div>
      )}
      {growing.isPending && <p role="status">Looking what lies there …</p>}
      {growing.error && <Attention>{growing.error.message}</Attention>}
      {(shown?.construction || ((first || ownRegion) && chosen.length < 2)) && (
        <Block
          title={
            shown?.construction
              ? "Constructed"
              : ownRegion
                ? "Region of the scan"
                : faces.length === 1
                  ? `Face ${faces[0]}`
                  : `${faces.length} faces`
          }
        >
          {region && <p className="mb-2 font-semibold">{region.name}</p>}
          {first && !shown?.construction && shown?.measured?.edgeOf == null && !edge && (
            <p className="mb-2 font-semibold first-letter:uppercase">{describeFace(first)}</p>
          )}
          {shown?.construction ? (
            <ConstructionEditor
              key={shown.id}
              construction={shown.construction}
              plan={plan.plan}
              disabled={busy}
              onChange={change}
            />
          ) : shown?.measured && kind ? (
            <FeatureEditor
              key={shown.id}
              feature={shown.measured}
              kind={kind}
              plan={plan.plan}
              choosing={choosing === shown.id}
              onChoose={(on) => setChoosing(on ? shown.id : null)}
              disabled={busy}
              onEdit={(to) => editFeature(shown.id, to)}
              onChange={change}
            />
          ) : (
            <PickedForm
              kind={kind!}
              edges={ofWalls}
              edge={edge}
              onEdge={(e) => {
                setEdge(e?.id ?? null);
                set({ faces: e?.faces ?? faces });
              }}
              criterion={criterion}
              onCriterion={setCriterion}
              margin={margin}
              onMargin={setMargin}
            />
          )}
          {(alike.data?.length ?? 0) > 1 && (
            <Button className="mb-2" disabled={busy || saving} onClick={() => addAll(alike.data!)}>
              Add all {alike.data!.length} alike to the plan
            </Button>
          )}
          {sides.length > 0 && (
            <Button className="mb-2" disabled={busy || saving} onClick={() => addAll(sides)}>
              Add its {sides.length} edges to the plan
            </Button>
          )}
          {measured && (
            <Measured
              feature={measured.feature as MeasuredFeature}
              residuals={measured.residuals}
              map={measured.map ?? null}
              missing={measured.evidence.missing.length / 3}
              nameOf={(id) => all.find((f) => f.id === id)?.name ?? id}
            />
          )}
          {measured && !shown?.construction && kind && !edge && shown?.measured?.edgeOf == null && (
            <Criteria piece={piece} measuredOn={measuredOn} feature={shown?.measured ?? formed} kind={kind} />
          )}
          {moreEdges.map((e) => (
            <Button
              key={e.id}
              className="mb-2 w-full"
              disabled={busy || saving}
              onClick={() =>
                change((p) => ({ ...p, features: [...(p.features ?? []), e] }), {
                  onSuccess: () => set({ features: [e.id], faces: e.faces }),
                })
              }
            >
              <span className="truncate">
                Add {e.name}, on face {e.edgeOf}
              </span>
            </Button>
          ))}
          {measure.isPending && <p role="status">Measuring …</p>}
          {error && !measured && <Attention>{error.message}</Attention>}
        </Block>
      )}
      <Construct
        partId={piece.partId}
        planNumber={plan.number}
        picked={sources}
        disabled={busy || saving}
        onMake={construct}
      />
      {sources.length > 0 && (
        <Proposals
          partId={piece.partId}
          planNumber={plan.number}
          faces={[]}
          features={sources.map((f) => f.id)}
          disabled={busy || saving}
          onTake={ask}
        />
      )}
      <Datums plan={plan.plan} known={known ?? null} disabled={busy} onChange={change} />
    </Worksheet>
  );
}

/** What there is to do first. */
function leadOf(compared: boolean, onScan: boolean): string {
  if (!compared) {
    return "Click faces to make features and datums of them; they are measured once the scan is aligned and compared.";
  }

  return onScan
    ? "Click a place of the scan: the surface that lies there is measured, and found again on the next piece."
    : "Click a face of the nominal to measure it. Shift-click adds a face of the same surface.";
}
