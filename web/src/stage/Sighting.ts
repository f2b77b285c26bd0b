import { type Box3, type OrthographicCamera, Vector3 } from "three";
import type { StageControls } from "./controls";
import type { Sight } from "./gripping";

/** What the panels at the sides of the stage cover together, px. */
const SIDES = 300;

/** How the part is seen: where places of it appear in the picture, and how far a view must reach. */
export class Sighting {
  constructor(
    private readonly camera: OrthographicCamera,
    private readonly controls: StageControls,
    private readonly canvas: HTMLCanvasElement,
  ) {}

  /** Where a point appears in the picture, in CSS pixels. */
  project(point: readonly number[]): { x: number; y: number } {
    const v = new Vector3(...point).project(this.camera);
    return { x: ((v.x + 1) / 2) * this.canvas.clientWidth, y: ((1 - v.y) / 2) * this.canvas.clientHeight };
  }

  /** All that dragging needs to know of how the part is seen. */
  sight(): Sight {
    const { right, up, back } = this.controls.axes();
    const { clientWidth: width, clientHeight: height } = this.canvas;
    return {
      target: this.controls.target.toArray(),
      right: right.toArray(),
      up: up.toArray(),
      back: back.toArray(),
      scale: this.controls.scale(),
      width,
      height,
    };
  }

  /** The plane through the target that faces the eye, and where points of the picture lie in it, mm. */
  viewPlane() {
    const { right, back } = this.controls.axes();
    const scale = this.controls.scale();
    return {
      point: this.controls.target.toArray(),
      normal: back.toArray(),
      right: right.toArray(),
      at: (x: number, y: number): [number, number] => [
        (x - this.canvas.clientWidth / 2) * scale,
        (this.canvas.clientHeight / 2 - y) * scale,
      ],
    };
  }

  /** Height of the view that shows a box whole, seen from a direction, between the panels at the sides. */
  spanOf(box: Box3, direction: Vector3, up: Vector3): number {
    const right = up.clone().cross(direction).normalize();
    const above = direction.clone().cross(right).normalize();
    const size = box.getSize(new Vector3());
    const along = (axis: Vector3) => Math.abs(axis.x) * size.x + Math.abs(axis.y) * size.y + Math.abs(axis.z) * size.z;
    const aspect = Math.max(1, this.canvas.clientWidth - SIDES) / Math.max(1, this.canvas.clientHeight);
    return 1.12 * Math.max(along(above), along(right) / aspect, 1e-3);
  }
}

/** What is up, seen from a direction: Z, or Y where one looks along Z. */
export function upFor(direction: Vector3): Vector3 {
  const z = new Vector3(0, 0, 1);
  return Math.abs(direction.clone().normalize().dot(z)) > 0.95 ? new Vector3(0, 1, 0) : z;
}
