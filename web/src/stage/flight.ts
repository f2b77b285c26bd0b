import { Vector3 } from "three";
import type { StageControls } from "./controls";
import type { FaceView } from "../api/client";
import { upFor } from "./Sighting";
import type { StageView } from "./StageView";

/** ms. */
const LASTS = 350;

/** However small a thing is, so much around it is shown with it, mm. */
const LEAST = 30;

/** Where one flies to: a point, the direction it is seen from, and the height of the picture, mm. */
interface Goal {
  target: readonly number[];
  direction: readonly number[];
  span: number;
}

/**
 * Moves the eye smoothly.
 *
 * @param seen called with every step: whether it goes on.
 */
export function fly(controls: StageControls, goal: Goal, seen: (moving: boolean) => void) {
  const from = {
    target: controls.target.clone(),
    direction: controls.direction.clone(),
    up: controls.up.clone(),
    span: controls.span,
  };
  const [target, direction] = [new Vector3(...goal.target), new Vector3(...goal.direction).normalize()];
  const up = upFor(direction);
  const lasts = matchMedia("(prefers-reduced-motion: reduce)").matches ? 0 : LASTS;
  const start = performance.now();
  const step = () => {
    const f = lasts === 0 ? 1 : Math.min(1, (performance.now() - start) / lasts);
    const e = f * f * (3 - 2 * f);
    controls.target.lerpVectors(from.target, target, e);
    controls.direction.lerpVectors(from.direction, direction, e);
    if (controls.direction.lengthSq() < 1e-6) {
      controls.direction.copy(direction);
    }

    controls.up.lerpVectors(from.up, up, e);
    controls.span = from.span + e * (goal.span - from.span);
    controls.apply();
    seen(f < 1);
    if (f < 1) {
      requestAnimationFrame(step);
    }
  };
  step();
}

/** Flies to a place of a face: square on where the face is flat, else as one looks now. */
export function flyToFace(view: StageView | null, face: FaceView | undefined, at: readonly number[], span: number) {
  if (view) {
    view.fly(at, face?.kind === "plane" ? face.numbers.slice(3, 6) : view.direction(), Math.max(LEAST, span));
  }
}
