import type { SelectionTerm } from "../api/client";
import type { Drawing } from "./controls";
import type { Tool } from "./preparing";
import type { Hit } from "./Picker";
import type { StageView } from "./StageView";

interface Options {
  op: "add" | "take";
  through: boolean;
  radius: number;
  angle: number;
}

interface Handlers {
  /** A finished term. */
  done: (term: SelectionTerm) => void;
  /** The same term with another size, while the pointer is held. */
  live: (term: SelectionTerm) => void;
  /** The outline to show, CSS pixels. */
  outline: (path: [number, number][], closed: boolean) => void;
}

/** mm a plane is raised over the surface it was taken from. */
const ABOVE = 0.5;

/** Pixels between the points of an outline. */
const STEP = 4;

/** Turns pointer movements into a selection term in the coordinates of what the stage shows. */
export function drawingFor(tool: Tool, view: StageView, options: () => Options, to: Handlers): Drawing {
  let path: [number, number][] = [];
  let points: number[] = [];
  let seed: Hit | null = null;
  let from = 0;
  const base = () => ({ frame: "scan" as const, op: options().op });
  const outlined = (): SelectionTerm => {
    const plane = view.sighting.viewPlane();
    return {
      ...base(),
      kind: "lasso",
      through: options().through,
      point: plane.point,
      normal: plane.normal,
      right: plane.right,
      path: path.flatMap(([x, y]) => plane.at(x, y)),
    };
  };
  const brushed = (x: number, y: number) => {
    const hit = view.pick(x, y);
    if (hit) {
      points.push(...hit.point);
    }
  };
  const grown = (angle: number): SelectionTerm => ({
    ...base(),
    kind: "grow",
    point: seed!.point,
    angleDegrees: angle,
  });
  return {
    start(x, y) {
      [path, points, seed, from] = [[[x, y]], [], null, x];
      if (tool === "brush") {
        brushed(x, y);
      } else if (tool !== "lasso" && tool !== "box") {
        seed = view.pick(x, y);
        if (!seed) {
          return;
        }

        if (tool === "grow") {
          to.live(grown(options().angle));
        } else if (tool === "side") {
          // The surface itself and what lies behind it: the plane is raised a little over its noise.
          const { point, normal } = seed;
          const raised = point.map((p, k) => p + ABOVE * normal[k]);
          to.done({ ...base(), kind: "side", point: raised, normal: normal.map((n) => -n) });
        } else if (tool === "surface" || tool === "piece") {
          to.done({ ...base(), kind: tool, point: seed.point });
        }
      }
    },
    move(x, y) {
      const [px, py] = path.at(-1)!;
      if (tool === "box") {
        const [x0, y0] = path[0];
        path = [[x0, y0], [x, y0], [x, y], [x0, y]]; // prettier-ignore
        to.outline(path, true);
      } else if (tool === "lasso" && Math.hypot(x - px, y - py) >= STEP) {
        path.push([x, y]);
        to.outline(path, true);
      } else if (tool === "brush" && Math.hypot(x - px, y - py) >= STEP) {
        path.push([x, y]);
        brushed(x, y);
        to.outline(path, false);
      } else if (tool === "grow" && seed) {
        to.live(grown(dragAngle(options().angle, x - from)));
        path.push([x, y]);
      }
    },
    end() {
      to.outline([], false);
      if ((tool === "lasso" || tool === "box") && path.length >= 3) {
        to.done(outlined());
      } else if (tool === "brush" && points.length > 0) {
        to.done({ ...base(), kind: "brush", path: points, radius: options().radius });
      } else if (tool === "grow" && seed) {
        to.done(grown(dragAngle(options().angle, path.at(-1)![0] - from)));
      }
    },
  };
}

/** Dragging to the right lets a growing selection turn farther, to the left less: twice as far every 90 pixels. */
export const dragAngle = (angle: number, pixels: number) => Math.min(60, Math.max(0.5, angle * 2 ** (pixels / 90)));
