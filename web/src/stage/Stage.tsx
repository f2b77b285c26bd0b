import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { bytes, type PieceView, type Schemas } from "../api/client";
import { useBench, type Station } from "./bench";
import { LabelLayer } from "./LabelLayer";
import { prepare } from "./prepared";
import { Rosette } from "./Rosette";
import { Ruler } from "./Ruler";
import { StageView, type Hit } from "./StageView";

interface Props {
  piece: PieceView;
  nominal: Schemas["NominalView"] | null;
  station: Station;
  onPick: (hit: Hit | null, extend: boolean) => void;
}

/** The 3D view of a piece; what it shows follows from the station. */
export function Stage({ piece, nominal, station, onPick }: Props) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const { view, set, limits, hideWithin, showEdges, before, faces, hover, measured } = useBench();
  const [failed, setFailed] = useState<string | null>(null);
  const run = piece.run;
  const raw = station === "receive" || (station === "prepare" && (before || !run?.preparation)) || !run?.preparation;
  const compared = !raw && run?.statistics != null;
  const transform = raw ? null : (run?.alignment?.transform ?? null);

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
      set({ view: null, hover: null, deviations: null, areas: null });
    };
  }, [set]);

  const nominalMesh = useQuery({
    queryKey: ["stage-nominal", nominal?.id],
    enabled: nominal != null,
    staleTime: Infinity,
    gcTime: 60_000,
    queryFn: async () => prepare(await bytes(`/api/nominals/${nominal!.id}/geometry`)),
  });
  const scanMesh = useQuery({
    queryKey: ["stage-scan", piece.id, piece.unit, raw, raw ? "" : run?.id],
    enabled: piece.vertices > 0 && !piece.problem,
    staleTime: Infinity,
    gcTime: 30_000,
    queryFn: async () => prepare(await bytes(`/api/pieces/${piece.id}/geometry?prepared=${!raw}`)),
  });
  const deviation = useQuery({
    queryKey: ["stage-deviation", piece.id, run?.id, run?.statistics?.rms, run?.alignment?.rms],
    enabled: compared,
    staleTime: Infinity,
    gcTime: 30_000,
    queryFn: async () => new Float32Array(await bytes(`/api/pieces/${piece.id}/deviation`)),
  });

  useEffect(() => {
    view?.setNominal(nominalMesh.data ?? null, nominal?.faces.length);
  }, [view, nominalMesh.data, nominal]);

  useEffect(() => {
    view?.setScan(scanMesh.data ?? null);
    set({ areas: scanMesh.data?.areas ?? null });
  }, [view, scanMesh.data, set]);

  const key = transform?.join(",");
  useEffect(() => {
    view?.setTransform(transform);
    // Look anew whenever the data moves to another frame.
    view?.fit(undefined, transform ? "nominal" : "scan");
    // eslint-disable-next-line react-hooks/exhaustive-deps -- the numbers, not the array, decide
  }, [view, key, scanMesh.data]);

  useEffect(() => {
    const values = compared && deviation.data ? deviation.data : null;
    view?.setDeviation(values);
    set({ deviations: values });
  }, [view, compared, deviation.data, scanMesh.data, set]);

  useEffect(() => view?.setLimits(limits.lower, limits.upper), [view, limits, scanMesh.data]);

  const colours = station === "compare" || station === "evaluate" || station === "issue";
  useEffect(() => {
    const picksNominal = station === "features" && transform !== null;
    view?.setDisplay({
      scan: !(station === "features" && transform !== null && measured === null),
      nominalAlpha: picksNominal ? (measured ? 0.12 : 1) : station === "align" && transform ? 0.3 : 0,
      edges: showEdges && transform !== null,
      deviation: colours && compared,
      hideWithin,
      pick: picksNominal ? "nominal" : "scan",
    });
  }, [view, station, transform, colours, compared, hideWithin, showEdges, measured, scanMesh.data, nominalMesh.data]);

  const hoveredFace = hover?.on === "nominal" ? hover.label : null;
  useEffect(() => view?.markFaces(faces, hoveredFace), [view, faces, hoveredFace, nominalMesh.data]);

  useEffect(() => {
    const chosen = measured ? new Set(measured.vertices) : null;
    if (!view || !scanMesh.data) {
      return;
    }

    if (raw && station === "prepare" && scanMesh.data.geometry.labels) {
      const part = looseVertices(scanMesh.data.geometry);
      view.mark((v) => part[v] === 1);
    } else {
      view.mark((v) => chosen?.has(v) ?? false);
    }
  }, [view, measured, scanMesh.data, raw, station]);

  useEffect(() => {
    if (view) {
      view.onClick = (hit, event) => onPick(hit, event.shiftKey);
    }
  }, [view, onPick]);

  const busy = scanMesh.isFetching || nominalMesh.isFetching || (compared && deviation.isFetching);
  const error = failed ?? piece.problem ?? (scanMesh.error ?? nominalMesh.error ?? deviation.error)?.message;
  return (
    <div
      className="relative h-full min-h-0 overflow-hidden bg-page"
      data-testid="stage"
      data-ready={!busy && scanMesh.data !== undefined}
    >
      <canvas ref={canvas} className="block touch-none" aria-label="Stage: the part in three dimensions" />
      {colours && compared && <Ruler />}
      {colours && <LabelLayer />}
      <Rosette />
      <ScaleBar />
      {busy && !error && (
        <p className="absolute top-3 left-3 rounded border border-line bg-panel px-2 py-1" role="status">
          Loading the geometry …
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

/** 1 for vertices of triangles that do not belong to the part (piece number with most triangles). */
function looseVertices(geometry: {
  indices: Uint32Array;
  labels: Uint32Array | null;
  positions: Float32Array;
}): Uint8Array {
  const counts = new Map<number, number>();
  for (const label of geometry.labels!) {
    counts.set(label, (counts.get(label) ?? 0) + 1);
  }

  const part = [...counts].sort((a, b) => b[1] - a[1])[0]?.[0];
  const loose = new Uint8Array(geometry.positions.length / 3);
  geometry.labels!.forEach((label, t) => {
    if (label !== part) {
      for (let k = 0; k < 3; k++) {
        loose[geometry.indices[3 * t + k]] = 1;
      }
    }
  });
  return loose;
}

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
        const power = 10 ** Math.floor(Math.log10(120 * scale));
        const length = [5, 2, 1].map((n) => n * power).find((l) => l <= 120 * scale) ?? power;
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
