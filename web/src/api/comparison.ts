import { keepPreviousData, useQuery } from "@tanstack/react-query";
import type { SectionPlan } from "../plan/sections";
import { api, bytes, take, type InspectionPlan, type LabelPlan, type MapPlan, type PieceView } from "./client";
import { runTask } from "./tasks";

/** What labels read on a piece, as the server finds it; null while it looks. */
export function useReadings(piece: PieceView, labels: LabelPlan[], map: MapPlan | null) {
  const key = piece.run?.compareStage?.deviationsKey;
  const readings = useQuery({
    queryKey: ["readings", piece.id, key, JSON.stringify([labels, map])],
    enabled: key != null && labels.length > 0,
    queryFn: () =>
      take(api.POST("/api/pieces/{id}/readings", { params: { path: { id: piece.id } }, body: { labels, map } })),
    staleTime: Infinity,
    retry: false,
  });
  return labels.length > 0 ? (readings.data?.readings ?? null) : [];
}

/**
 * A map of a piece without its values: what it says, its statistics, where its colours end. Asked for once the values are
 * there: making them takes long, tells how far it is, and can be cancelled; the rest follows in a moment.
 */
export function useMapView(piece: PieceView, map: MapPlan | null) {
  const key = piece.run?.compareStage?.deviationsKey;
  const values = useMapValues(piece, map);
  return useQuery({
    queryKey: ["map", piece.id, key, JSON.stringify(map)],
    enabled: key != null && map !== null && values.data !== undefined,
    queryFn: () => take(api.POST("/api/pieces/{id}/map", { params: { path: { id: piece.id } }, body: map! })),
    staleTime: Infinity,
    gcTime: 30_000,
    retry: false,
  });
}

/** The values of a map, one a vertex of what it lies on. Other limits and another name change none. */
export function useMapValues(piece: PieceView, map: MapPlan | null) {
  const key = piece.run?.compareStage?.deviationsKey;
  const bare = map && { ...map, name: "map", lower: null, upper: null };
  return useQuery({
    queryKey: ["map-values", piece.id, key, JSON.stringify(bare)],
    enabled: key != null && map !== null,
    queryFn: ({ signal }) =>
      runTask(
        "Making the map",
        async (task) => new Float32Array(await bytes(`/api/pieces/${piece.id}/map/values`, bare!, undefined, task)),
        signal,
      ),
    staleTime: Infinity,
    gcTime: 30_000,
    retry: false,
  });
}

/** What a piece's deviation is made of; the plan names its faces and says what is known of the device. */
export function useExplanation(piece: PieceView, planNumber: number) {
  const key = piece.run?.compareStage?.deviationsKey;
  return useQuery({
    queryKey: ["explanation", piece.id, key, planNumber],
    enabled: key != null,
    queryFn: () => take(api.GET("/api/pieces/{id}/explanation", { params: { path: { id: piece.id } } })),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: 60_000,
    retry: false,
  });
}

/** Where the deviation lies beyond a band. */
export function useAreas(piece: PieceView, band: { lower: number; upper: number } | null) {
  const key = piece.run?.compareStage?.deviationsKey;
  return useQuery({
    queryKey: ["areas", piece.id, key, band],
    enabled: key != null && band !== null,
    queryFn: () =>
      take(
        api.POST("/api/pieces/{id}/areas", { params: { path: { id: piece.id } }, body: { ...band!, smallest: null } }),
      ),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: 30_000,
    retry: false,
  });
}

/**
 * A piece and its nominal cut in one plane of the map; what was cut before stays until the new cut is there. How strokes
 * are drawn and what the section is called change no cut.
 *
 * @param parts whether lines and arcs are sought, which takes longer than all else
 */
export const useSection = (
  piece: PieceView,
  section: SectionPlan | null,
  compare: InspectionPlan["compare"],
  parts: boolean,
) => {
  const key = piece.run?.compareStage?.deviationsKey;
  const band = { ...compare, labels: null, labelsSay: null, sections: null, maps: null, ramp: null };
  return useQuery({
    queryKey: ["section", piece.id, key, JSON.stringify([band, section?.point, section?.normal]), parts],
    enabled: key != null && section !== null,
    queryFn: () => take(api.POST("/api/pieces/{id}/section", { params: { path: { id: piece.id }, query: { parts } }, body: section! })),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: 30_000,
    retry: false,
  });
};

/** What can be measured of one or two lines and arcs of a section, named by places on them; judged under the plan. */
export const useSectionOffers = (piece: PieceView, planNumber: number, section: SectionPlan, parts: number[][]) => {
  const key = piece.run?.compareStage?.deviationsKey;
  return useQuery({
    queryKey: ["section-offers", piece.id, key, planNumber, section.point, section.normal, parts],
    enabled: key != null,
    queryFn: () =>
      take(
        api.POST("/api/pieces/{id}/section/offers", { params: { path: { id: piece.id } }, body: { section, parts } }),
      ),
    staleTime: Infinity,
    gcTime: 30_000,
    retry: false,
  });
};
