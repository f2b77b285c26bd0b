import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { bytes, type LabelPlan, type MapPlan, type PieceView, type PrepareStep, type Schemas } from "../api/client";
import { useReadings } from "../api/comparison";
import { runTask } from "../api/tasks";
import { roundBelow } from "../ui/format";
import { useBench, onHover, useBenchOf, type Station } from "./bench";
import { DistanceLayer } from "./DistanceLayer";
import { Handles } from "./Handles";
import { LabelLayer } from "./LabelLayer";
import { prepare, type PreparedMesh } from "./prepared";
import { bit, stepsShown, usePreparing } from "./preparing";
import { Rosette } from "./Rosette";
import { Ruler } from "./Ruler";
import { SectionLayer } from "./SectionLayer";
import { SelectOverlay } from "./SelectOverlay";
import type { Hit } from "./Picker";
import { ShownPage } from "./ShownPage";
import { ShownSheet } from "./Sheet";
import { useShown } from "./shown";
import { StageView } from "./StageView";
import { useShownMap } from "./useShownMap";

interface Props {
  piece: PieceView;
  nominal: Schemas["NominalView"] | null;
  station: Station;
  /** Name of the alignment in which what is picked stands; null: the plan's own; undefined: that of the map. */
  alignment?: string | null;
  /** Preparing steps of the plan. */
  steps: PrepareStep[];
  /** What is looked at instead of the deviation. */
  map: MapPlan | null;
  labels: LabelPlan[];
  labelsSay: readonly NonNullable<Schemas["LabelContent"]>[];
  onRemoveLabel: ((index: number) => void) | null;
  onPick: (hit: Hit | null, extend: boolean) => void;
}

/** The scan in one of the plan's further alignments; null where it has no pose there. */
const stageIn = (run: PieceView["run"], alignment: string | null) =>
  (alignment !== null && run?.named.find((n) => n.name === alignment)?.stage) || null;

/** The 3D view of a piece; what it shows follows from the station. */
export function Stage({
  piece,
  nominal,
  station,
  alignment,
  steps,
  map,
  labels,
  labelsSay,
  onRemoveLabel,
  onPick,
}: Props) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const { view, set, hideWithin, seeThrough, showEdges, before, faces, pickOn, measured, evidence, trialPose } =
    useBenchOf(
      "view",
      "set",
      "hideWithin",
      "seeThrough",
      "showEdges",
      "before",
      "faces",
      "pickOn",
      "measured",
      "evidence",
      "trialPose",
    );
  const [loaded, setLoaded] = useState(0);
  const [failed, setFailed] = useState<string | null>(null);
  const run = piece.run;
  const preparing = usePreparing();
  const trying = station === "prepare" && nominal !== null;
  const shown = trying ? (before ? [] : stepsShown(steps, preparing)) : null;
  // What was compared and measured is shown as it was then, even if the alignment has been done anew since.
  const source =
    station === "receive" || station === "prepare"
      ? null
      : station === "align"
        ? (stageIn(run, alignment ?? null) ?? run?.alignStage ?? null)
        : ((alignment === undefined
            ? null
            : (stageIn(run, alignment) ?? (alignment === null ? run?.ownStage : null))) ??
          run?.compareStage ??
          run?.alignStage ??
          null);
  const raw = source === null;
  const deviationsKey = source?.deviationsKey ?? null;
  const compared = deviationsKey !== null;
  const transform = (station === "align" && trialPose) || (source?.transform ?? null);
  const readings = useReadings(piece, labels, map);
  const shownAs = useShown(piece, map);
  const { scale } = shownAs;

  useEffect(() => {
    let made: StageView;
    try {
      made = new StageView(canvas.current!);
    } catch {
      setFailed("This browser gives no WebGL picture; everything but the stage still works.");
      return;
    }

    made.onHover = (h) => set({ hover: h });
    set({ view: made });
    return () => {
      made.dispose();
      set({ view: null, hover: null, values: null, areas: null });
    };
  }, [set]);

  const nominalMesh = useQuery({
    queryKey: ["stage-nominal", nominal?.id],
    enabled: nominal != null,
    staleTime: Infinity,
    gcTime: 60_000,
    queryFn: async () => prepare(await bytes(`/api/nominals/${nominal!.id}/geometry`)),
  });
  const scanMesh = useQuery<PreparedMesh>({
    queryKey: [
      "stage-scan",
      piece.id,
      piece.unit,
      piece.columns,
      raw ? JSON.stringify(shown ?? []) : source.preparedKey,
    ],
    enabled: piece.vertices > 0 && !piece.problem,
    staleTime: Infinity,
    gcTime: 30_000,
    retry: false,
    placeholderData: (old) => (trying ? old : undefined),
    queryFn: async ({ signal }) =>
      prepare(
        shown && shown.length > 0
          ? await runTask(
              "Trying the steps",
              (task) => bytes(`/api/pieces/${piece.id}/preview/geometry`, { steps: shown }, setLoaded, task),
              signal,
            )
          : await bytes(
              `/api/pieces/${piece.id}/geometry${raw ? "" : `?prepared=${source.preparedKey}`}`,
              undefined,
              setLoaded,
            ),
      ),
  });
  const deviation = useQuery({
    queryKey: ["stage-deviation", piece.id, deviationsKey],
    enabled: compared,
    staleTime: Infinity,
    gcTime: 30_000,
    queryFn: async () => new Float32Array(await bytes(`/api/pieces/${piece.id}/deviation?key=${deviationsKey}`)),
  });

  /** How far the step just tried moved each vertex, when it moves any. */
  const moved = trying && !before ? (scanMesh.data?.geometry.values ?? null) : null;
  useEffect(() => {
    view?.setNominal(nominalMesh.data ?? null, nominal?.faces.length);
  }, [view, nominalMesh.data, nominal]);

  const coloured = useShownMap(piece, nominal, map, compared ? (deviation.data ?? null) : null, deviationsKey);
  const mesh = (compared && coloured.surface) || scanMesh.data;
  useEffect(() => {
    view?.setScan(mesh ?? null);
    set({ areas: mesh?.areas ?? null });
  }, [view, mesh, set]);

  // Features, and the axes of a reference, can be chosen before anything is aligned: then the nominal stands alone.
  const alone =
    (station === "features" || (station === "align" && nominal?.isReference === true)) &&
    transform === null &&
    nominal !== null;
  const pose = transform?.join(",");
  // Another pose on the same nominal is seen from where one looks already.
  const frame = `${piece.id} ${piece.unit} ${transform || alone ? `nominal ${nominal?.id}` : "scan"}`;
  const fitted = useRef("");
  useEffect(() => {
    view?.setTransform(mesh === scanMesh.data ? transform : null);
    // Look anew whenever the data moves to another frame; trying a step does not move the eye.
    // What lies on the nominal is looked at as the nominal: whichever of the two comes first waits for the other.
    const waits = transform !== null && nominal !== null && !nominalMesh.data && !nominalMesh.error;
    if (view && !waits && (alone ? nominalMesh.data : scanMesh.data) && fitted.current !== frame) {
      fitted.current = frame;
      view.open(transform || alone ? "nominal" : "scan");
    }
    // eslint-disable-next-line react-hooks/exhaustive-deps -- the numbers, not the array, decide
  }, [view, frame, pose, mesh, nominalMesh.data]);

  useEffect(() => {
    const values = compared ? coloured.values : null;
    view?.setDeviation(values ?? moved);
    set({ values });
  }, [view, compared, coloured.values, moved, mesh, set]);

  useEffect(() => {
    const reach = moved ? Math.max(1e-6, largest(moved)) : null;
    view?.setScale(reach ? { ...scale, lower: -reach, upper: reach } : scale);
    // eslint-disable-next-line react-hooks/exhaustive-deps -- the numbers, not the object, decide
  }, [view, JSON.stringify(scale), moved, mesh]);

  const colours = station === "compare" || station === "evaluate" || station === "issue";
  useEffect(() => {
    const picksNominal = alone || (station === "features" && transform !== null && !(compared && pickOn === "scan"));
    view?.setDisplay({
      scan: !(picksNominal && measured === null),
      nominalAlpha: picksNominal ? (measured ? 0.12 : 1) : station === "align" && transform ? 0.3 : 0,
      edges: showEdges && (transform !== null || alone),
      deviation: (colours && compared && coloured.values !== null) || moved !== null,
      hideWithin,
      seeThrough: seeThrough && station === "compare",
      pick: picksNominal ? "nominal" : "scan",
      faces: station !== "receive" && station !== "prepare" && transform !== null,
    });
  }, [
    view,
    station,
    transform,
    alone,
    pickOn,
    colours,
    compared,
    hideWithin,
    seeThrough,
    showEdges,
    measured,
    moved,
    coloured.values,
    mesh,
    nominalMesh.data,
  ]);

  useEffect(
    () => onHover((hover) => view?.markFaces(faces, hover?.on === "nominal" ? hover.face : null)),
    [view, faces, nominalMesh.data],
  );

  useEffect(() => {
    if (!view || !scanMesh.data) {
      return;
    }

    const selected = trying && !preparing.trying && !before ? preparing.selected : null;
    const marked = selected
      ? selectedVertices(scanMesh.data.geometry, selected.mask)
      : new Set(measured?.residuals.length ? [] : (measured?.evidence.used ?? []));
    view.mark((v) => marked.has(v));
  }, [view, measured, scanMesh.data, trying, before, preparing.trying, preparing.selected]);

  useEffect(() => {
    const residuals = measured && measured.evidence === evidence ? measured.residuals : null;
    view?.setEvidence(evidence, station === "evaluate", residuals?.length ? residuals : null);
  }, [view, evidence, measured, station, scanMesh.data, frame, pose]);

  useEffect(() => {
    if (view) {
      view.onClick = (hit, event) => onPick(hit, event.shiftKey);
    }
  }, [view, onPick]);

  const busy =
    scanMesh.isFetching || nominalMesh.isFetching || (compared && (deviation.isFetching || coloured.fetching));
  const error = failed ?? piece.problem ?? (scanMesh.error ?? nominalMesh.error ?? deviation.error)?.message;
  const unmade = coloured.error?.message;
  return (
    <div
      className="relative h-full min-h-0 overflow-hidden bg-page"
      data-testid="stage"
      data-ready={!busy && scanMesh.data !== undefined}
    >
      <canvas ref={canvas} className="block touch-none" aria-label="Stage: the part in three dimensions" />
      <SectionLayer />
      <DistanceLayer />
      {colours && compared && (
        <LabelLayer labels={labels} say={labelsSay} scale={scale} readings={readings} onRemove={onRemoveLabel} />
      )}
      {trying && !before && (
        <SelectOverlay pieceId={piece.id} steps={stepsShown(steps, { ...preparing, trying: false })} />
      )}
      {station === "align" && <Handles />}
      <Rosette />
      <ScaleBar />
      <ShownSheet />
      <ShownPage />
      {colours && compared && <Ruler shown={shownAs} />}
      {busy && !error && (
        <p className="absolute top-3 left-3 rounded border border-line bg-panel px-2 py-1" role="status">
          {loaded > 0 && loaded < 1
            ? `Loading the geometry: ${Math.round(100 * loaded)} %`
            : coloured.fetching
              ? "Making the map …"
              : "Getting the geometry ready …"}
        </p>
      )}
      {unmade && !error && (
        <p className="absolute inset-x-8 top-8 rounded border border-brass bg-panel p-3" role="alert">
          {unmade}
        </p>
      )}
      {error && (
        <p className="absolute inset-x-8 top-8 rounded border border-bad bg-panel p-3 text-bad" role="alert">
          {error}
        </p>
      )}
    </div>
  );
}

/** The vertices of what is selected: of triangles, or the points of a cloud themselves. */
function selectedVertices({ indices }: { indices: Uint32Array }, mask: Uint8Array): Set<number> {
  const vertices = new Set<number>();
  const cloud = indices.length === 0;
  for (let i = 0; i < 8 * mask.length; i++) {
    if (bit(mask, i)) {
      if (cloud) {
        vertices.add(i);
      } else {
        vertices
          .add(indices[3 * i])
          .add(indices[3 * i + 1])
          .add(indices[3 * i + 2]);
      }
    }
  }

  return vertices;
}

const largest = (values: Float32Array) => values.reduce((a, b) => Math.max(a, b), 0);

/** A bar of a round length in real units, kept true while zooming. */
function ScaleBar() {
  const view = useBench((s) => s.view);
  const bar = useRef<HTMLDivElement>(null);
  const text = useRef<HTMLSpanElement>(null);
  useEffect(() => {
    let frame = 0;
    let last = 0;
    const follow = () => {
      const scale = view?.controls.scale() ?? 0;
      if (scale > 0 && scale !== last && bar.current && text.current) {
        last = scale;
        const length = roundBelow(120 * scale);
        bar.current.style.width = `${length / scale}px`;
        text.current.textContent = `${length} mm`;
      }

      frame = requestAnimationFrame(follow);
    };
    follow();
    return () => cancelAnimationFrame(frame);
  }, [view]);
  return (
    <div className="pointer-events-none absolute bottom-3 left-28 text-xs">
      <span ref={text} className="num" />
      <div ref={bar} className="h-1.5 border border-t-0 border-ink" />
    </div>
  );
}
