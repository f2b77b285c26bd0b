import { Matrix4, type OrthographicCamera, Points, Raycaster, Vector2, Vector3 } from "three";
import { pointUnder } from "./cloudPick";
import type { StageControls } from "./controls";
import type { NominalLayer } from "./NominalLayer";
import type { ScanLayer } from "./ScanLayer";
import type { Display } from "./StageView";

/** What lies under the cursor, in nominal coordinates (or the scan's own while it is not aligned). */
export interface Hit {
  point: [number, number, number];
  /** Of the triangle, outward. */
  normal: [number, number, number];
  on: "scan" | "nominal";
  vertex: number | null;
  deviation: number | null;
  label: number | null;
  /** Of the nominal, also where the scan lies over it. */
  face: number | null;
  /** The place on the nominal under the cursor and its normal. */
  nominal: { point: [number, number, number]; normal: [number, number, number] } | null;
}

/** What is on the stage, and how it is shown. */
interface Shown {
  scan: ScanLayer | null;
  nominal: NominalLayer | null;
  display: Display;
}

/** A point of a cloud is met within so many pixels. */
const AIM = 7;

/** Finds what lies under a place of the picture. */
export class Picker {
  private readonly ray = new Raycaster();

  constructor(
    private readonly camera: OrthographicCamera,
    private readonly controls: StageControls,
    private readonly canvas: HTMLCanvasElement,
  ) {
    this.ray.firstHitOnly = true;
  }

  /** @param x In CSS pixels, as y. */
  under(x: number, y: number, shown: Shown): Hit | null {
    const { scan, nominal, display } = shown;
    const { clientWidth: width, clientHeight: height } = this.canvas;
    this.ray.setFromCamera(new Vector2((2 * x) / width - 1, 1 - (2 * y) / height), this.camera);
    if (display.pick === "nominal" && nominal) {
      return this.onNominal(nominal);
    }

    if (!scan || !display.scan) {
      return null;
    }

    const under = scan.object instanceof Points ? this.point(x, y, scan) : this.surface(scan);
    return under && { ...under, ...(display.faces ? this.through(nominal) : { face: null, nominal: null }) };
  }

  private onNominal(nominal: NominalLayer): Hit | null {
    const hit = this.ray.intersectObject(nominal.mesh, false)[0];
    if (hit?.faceIndex == null) {
      return null;
    }

    const point = hit.point.toArray();
    const normal = hit.face!.normal.clone().transformDirection(nominal.mesh.matrixWorld).toArray();
    const face = nominal.labels[hit.faceIndex] ?? null;
    return {
      point,
      normal,
      on: "nominal",
      vertex: null,
      deviation: null,
      label: face,
      face,
      nominal: { point, normal },
    };
  }

  private surface(scan: ScanLayer): Omit<Hit, "face" | "nominal"> | null {
    const hit = this.ray.intersectObject(scan.object, false)[0];
    if (hit?.faceIndex == null) {
      return null;
    }

    const vertex = scan.nearestVertex(hit.faceIndex, hit.point);
    return {
      point: hit.point.toArray(),
      normal: hit.face!.normal.clone().transformDirection(scan.object.matrixWorld).toArray(),
      on: "scan",
      vertex,
      deviation: scan.deviation?.[vertex] ?? null,
      label: scan.data.geometry.labels?.[hit.faceIndex] ?? null,
    };
  }

  /** The point of a cloud under a place of the picture. Bare points have no side: they are taken to face the eye. */
  private point(x: number, y: number, scan: ScanLayer): Omit<Hit, "face" | "nominal"> | null {
    const { clientWidth: width, clientHeight: height } = this.canvas;
    const toClip = new Matrix4()
      .multiplyMatrices(this.camera.projectionMatrix, this.camera.matrixWorldInverse)
      .multiply(scan.place);
    const depth = (2 * AIM * 2 * this.controls.span) / height / (this.camera.far - this.camera.near);
    const at = pointUnder(scan.positions, toClip.elements, { x, y, width, height, radius: AIM, depth });
    if (at < 0) {
      return null;
    }

    const normal = new Vector3().fromArray(scan.data.normals, 3 * at).transformDirection(scan.place);
    return {
      point: new Vector3()
        .fromArray(scan.positions, 3 * at)
        .applyMatrix4(scan.place)
        .toArray(),
      normal: (normal.lengthSq() > 0.5 ? normal : this.controls.direction.clone()).toArray(),
      on: "scan",
      vertex: at,
      deviation: scan.deviation?.[at] ?? null,
      label: null,
    };
  }

  /** What of the nominal the ray of the last pick meets first. */
  private through(nominal: NominalLayer | null): Pick<Hit, "face" | "nominal"> {
    const hit = nominal && this.ray.intersectObject(nominal.mesh, false)[0];
    return hit?.faceIndex == null
      ? { face: null, nominal: null }
      : {
          face: nominal!.labels[hit.faceIndex] ?? null,
          nominal: { point: hit.point.toArray(), normal: hit.face!.normal.toArray() },
        };
  }
}
