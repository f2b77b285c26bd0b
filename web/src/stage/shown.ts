import type { MapPlan, PieceView, Schemas } from "../api/client";
import { useMapView } from "../api/comparison";
import { useBenchOf, type Limits } from "./bench";
import type { Ramp, Scale } from "./ramp";

/** What colours the stage: the deviation, or another map. */
export interface Shown {
  scale: Scale;
  unit: string;
  name: string;
  /** Gives it other limits, for this viewer. */
  move: (to: Partial<Limits>) => void;
}

/** The colours of the deviation. */
export const deviationScale = ({ lower, upper }: Limits, ramp: Ramp): Scale => ({
  lower,
  upper,
  lowerBinds: true,
  upperBinds: true,
  ramp,
});

/** The colours of another map: its own ends, or those a viewer gave it, which are limits then. */
export const mapScale = (made: Schemas["MapView"], moved: Partial<Limits>, ramp: Ramp): Scale => ({
  lower: moved.lower ?? made.lower,
  upper: moved.upper ?? made.upper,
  lowerBinds: made.lowerBinds || moved.lower !== undefined,
  upperBinds: made.upperBinds || moved.upper !== undefined,
  ramp,
});

export function useDeviationScale(): Scale {
  const { limits, ramp } = useBenchOf("limits", "ramp");
  return deviationScale(limits, ramp);
}

/** @param map what was asked for instead of the deviation; that is told until the map is made. */
export function useShown(piece: PieceView, map: MapPlan | null): Shown {
  const { limits, ramp, mapLimits, set } = useBenchOf("limits", "ramp", "mapLimits", "set");
  const made = useMapView(piece, map).data;
  return map && made
    ? {
        scale: mapScale(made, mapLimits, ramp),
        unit: made.unit,
        name: map.name ?? "",
        move: (to) => set({ mapLimits: { ...mapLimits, ...to } }),
      }
    : {
        scale: deviationScale(limits, ramp),
        unit: "mm",
        name: "deviation",
        move: (to) => set({ limits: { ...limits, ...to } }),
      };
}
