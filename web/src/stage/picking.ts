import { useEffect, useRef } from "react";
import { useBench } from "./bench";
import type { Hit } from "./Picker";

/** What a click on the stage means at the station that is open. */
export type PickHandler = (hit: Hit | null, extend: boolean) => void;

/** While the component is there, clicks on the stage go to it; the one that came last has them. */
export function usePick(pick: PickHandler) {
  const latest = useRef(pick);
  useEffect(() => {
    latest.current = pick;
  }, [pick]);
  useEffect(() => {
    const mine: PickHandler = (hit, extend) => latest.current(hit, extend);
    const bench = useBench.getState();
    bench.set({ picks: [...bench.picks, mine] });
    return () => {
      const now = useBench.getState();
      now.set({ picks: now.picks.filter((p) => p !== mine) });
    };
  }, []);
}

/** Faces after a click: that one alone, or with Shift one more or one less. */
export const pickedFaces = (faces: readonly number[], face: number, extend: boolean): number[] =>
  !extend ? [face] : faces.includes(face) ? faces.filter((f) => f !== face) : [...faces, face];
