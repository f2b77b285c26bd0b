import { useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import { bytes, type MapPlan, type PieceView, type Schemas } from "../api/client";
import { useMapValues, useMapView } from "../api/comparison";
import { useBenchOf } from "./bench";
import { prepare, type PreparedMesh } from "./prepared";

/** Where nothing was asked: neither coloured nor counted. */
const NOT_ASKED = Infinity;

interface ShownMap {
  /** Of the map, or of the deviation; null while it is not there. */
  values: Float32Array | null;
  /** What it lies on where that is the nominal; null: the scan. */
  surface: PreparedMesh | null;
  fetching: boolean;
  error: Error | null;
}

/** What colours the stage: the deviation, or the map that was asked for, held to the chosen faces. */
export function useShownMap(
  piece: PieceView,
  nominal: Schemas["NominalView"] | null,
  plan: MapPlan | null,
  deviations: Float32Array | null,
  deviationsKey: string | null,
): ShownMap {
  const { onlyFaces } = useBenchOf("onlyFaces");
  const made = useMapView(piece, plan);
  const of = useMapValues(piece, plan);
  const onNominal = plan !== null && made.data?.onNominal === true;
  const surface = useQuery({
    queryKey: ["stage-surface", nominal?.id],
    enabled: onNominal && nominal !== null,
    staleTime: Infinity,
    gcTime: 60_000,
    queryFn: async () => prepare(await bytes(`/api/nominals/${nominal!.id}/surface`)),
  });
  const held = onlyFaces.length > 0 && !onNominal;
  const faces = useQuery({
    queryKey: ["stage-faces", piece.id, deviationsKey],
    enabled: held && deviationsKey !== null,
    staleTime: Infinity,
    gcTime: 30_000,
    queryFn: async () => new Int32Array(await bytes(`/api/pieces/${piece.id}/faces?key=${deviationsKey}`)),
  });
  const whole = plan ? (made.data ? (of.data ?? null) : null) : deviations;
  const mesh = (onNominal && surface.data) || null;
  const faceOf = useMemo(
    () => (onNominal ? (mesh ? facesOfVertices(mesh) : null) : (faces.data ?? null)),
    [onNominal, mesh, faces.data],
  );
  const values = useMemo(() => {
    if (!whole || onlyFaces.length === 0 || faceOf?.length !== whole.length) {
      return whole;
    }

    const wanted = new Set(onlyFaces);
    return whole.map((v, i) => (wanted.has(faceOf[i]) ? v : NOT_ASKED));
  }, [whole, faceOf, onlyFaces]);
  return {
    values: onNominal && !mesh ? null : values,
    surface: values ? mesh : null,
    fetching: made.isFetching || of.isFetching || surface.isFetching || (held && faces.isFetching),
    error: made.error ?? of.error ?? surface.error ?? faces.error,
  };
}

/** No vertex of such a mesh belongs to two faces. */
function facesOfVertices({ geometry }: PreparedMesh): Int32Array {
  const faces = new Int32Array(geometry.positions.length / 3);
  geometry.indices.forEach((v, i) => (faces[v] = geometry.labels?.[Math.floor(i / 3)] ?? -1));
  return faces;
}
