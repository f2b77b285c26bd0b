import {
  Box3,
  Matrix4,
  type Object3D,
  OrthographicCamera,
  Points,
  Raycaster,
  Scene,
  type ShaderMaterial,
  Vector2,
  Vector3,
  WebGLRenderer,
} from "three";
import type { FigurePlan } from "../api/client";
import { pointUnder } from "./cloudPick";
import { StageControls } from "./controls";
import { type Evidence, EvidenceLayer } from "./EvidenceLayer";
import { firstDirection, mostOf } from "./firstView";
import { NominalLayer } from "./NominalLayer";
import type { PreparedMesh } from "./prepared";
import { ScanLayer } from "./ScanLayer";

export type FigureCamera = FigurePlan["camera"];

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

export interface Display {
  scan: boolean;
  nominalAlpha: number;
  edges: boolean;
  deviation: boolean;
  hideWithin: boolean;
  pick: "scan" | "nominal";
  /** Faces of the nominal can be picked through the scan. */
  faces: boolean;
}

const CLICK_SLACK = 4;

/** A point of a cloud is met within so many pixels. */
const AIM = 7;

/** The 3D view: draws on demand, a coarse level while the camera moves, full detail at rest. Knows nothing of React. */
export class StageView {
  onHover: (hit: Hit | null) => void = () => undefined;
  onClick: (hit: Hit | null, event: PointerEvent) => void = () => undefined;
  onView: () => void = () => undefined;
  readonly controls: StageControls;
  private readonly renderer: WebGLRenderer;
  private readonly scene = new Scene();
  private readonly camera = new OrthographicCamera();
  private readonly ray = new Raycaster();
  private scan: ScanLayer | null = null;
  private nominal: NominalLayer | null = null;
  private evidence: EvidenceLayer | null = null;
  private display: Display = {
    scan: true,
    nominalAlpha: 0,
    edges: false,
    deviation: false,
    hideWithin: false,
    pick: "scan",
    faces: false,
  };
  private pending = false;
  private moving = false;
  private hovering: PointerEvent | null = null;
  private readonly watch: ResizeObserver;

  constructor(private readonly canvas: HTMLCanvasElement) {
    this.renderer = new WebGLRenderer({ canvas, antialias: false, alpha: true, preserveDrawingBuffer: true });
    this.renderer.setClearAlpha(0);
    this.ray.firstHitOnly = true;
    this.controls = new StageControls(this.camera, canvas, (moving) => {
      this.moving = moving;
      this.draw();
      this.onView();
    });
    this.watch = new ResizeObserver(() => this.resize());
    this.watch.observe(canvas.parentElement!);
    canvas.addEventListener("pointermove", this.pointer);
    canvas.addEventListener("pointerleave", () => this.onHover(null));
    canvas.addEventListener("pointerdown", this.press);
    this.resize();
  }

  dispose() {
    this.watch.disconnect();
    this.setEvidence(null);
    this.setScan(null);
    this.setNominal(null);
    this.renderer.dispose();
  }

  setScan(data: PreparedMesh | null) {
    if (this.scan) {
      this.scene.remove(...this.scan.objects);
      this.scan.dispose();
    }

    this.scan = data && new ScanLayer(data);
    if (this.scan) {
      this.scan.setTransform(null);
      this.scene.add(...this.scan.objects);
    }

    this.draw();
  }

  /**
   * Marks what a value rests on; the used points themselves only when asked for, where colour does not show them, or
   * coloured by their residuals.
   */
  setEvidence(evidence: Evidence | null, dots = false, residuals: readonly number[] | null = null) {
    if (this.evidence) {
      this.scene.remove(this.evidence.group);
      this.evidence.dispose();
    }

    this.evidence =
      evidence && this.scan && new EvidenceLayer(evidence, this.scan.positions, this.scan.place, dots, residuals);
    if (this.evidence) {
      this.scene.add(this.evidence.group);
    }

    this.draw();
  }

  setNominal(data: PreparedMesh | null, faces = 0) {
    if (this.nominal) {
      this.scene.remove(this.nominal.mesh, this.nominal.edges);
      this.nominal.dispose();
    }

    this.nominal = data && new NominalLayer(data, faces);
    if (this.nominal) {
      this.scene.add(this.nominal.mesh, this.nominal.edges);
    }

    this.draw();
  }

  /** Scan to nominal, 16 numbers row-major; null leaves the scan in its own frame. */
  setTransform(transform: readonly number[] | null) {
    this.scan?.setTransform(transform);
    this.draw();
  }

  setDeviation(values: Float32Array | null) {
    this.scan?.setDeviation(values);
    this.draw();
  }

  setLimits(lower: number, upper: number) {
    if (this.scan) {
      this.scan.material.uniforms.lower.value = lower;
      this.scan.material.uniforms.upper.value = upper;
      this.draw();
    }
  }

  setDisplay(display: Display) {
    this.display = display;
    this.draw();
  }

  /** Marks scan vertices (points of a measured feature, loose pieces, a selection). */
  mark(marked: (vertex: number) => boolean) {
    this.scan?.mark(marked);
    this.draw();
  }

  markFaces(chosen: readonly number[], hovered: number | null) {
    // The hand mostly moves within one face: then nothing is drawn anew.
    if (this.nominal?.markFaces(chosen, hovered)) {
      this.draw();
    }
  }

  /** The camera as a figure keeps it. */
  figureCamera(): FigureCamera {
    const { up, back } = this.controls.axes();
    return {
      target: this.controls.target.toArray(),
      direction: back.toArray(),
      up: up.toArray(),
      span: this.controls.span,
    };
  }

  look(camera: FigureCamera) {
    this.controls.target.fromArray(camera.target);
    this.controls.direction.fromArray(camera.direction).normalize();
    this.controls.up.fromArray(camera.up);
    this.controls.span = camera.span;
    this.controls.apply();
    this.draw();
    this.onView();
  }

  /** From where the part is seen. */
  direction(): number[] {
    return this.controls.direction.toArray();
  }

  /** Moves smoothly to a point seen from a direction. */
  fly(target: readonly number[], direction: readonly number[], span: number) {
    const from = { t: this.controls.target.clone(), d: this.controls.direction.clone(), s: this.controls.span };
    const to = { t: new Vector3(...target), d: new Vector3(...direction).normalize(), s: span };
    if (matchMedia("(prefers-reduced-motion: reduce)").matches) {
      this.look({ target: [...target], direction: [...direction], up: this.upFor(to.d).toArray(), span });
      return;
    }

    const up = this.upFor(to.d);
    const upFrom = this.controls.up.clone();
    const start = performance.now();
    const step = () => {
      const f = Math.min(1, (performance.now() - start) / 350);
      const e = f * f * (3 - 2 * f);
      this.controls.target.lerpVectors(from.t, to.t, e);
      this.controls.direction.lerpVectors(from.d, to.d, e);
      if (this.controls.direction.lengthSq() < 1e-6) {
        this.controls.direction.copy(to.d);
      }

      this.controls.up.lerpVectors(upFrom, up, e);
      this.controls.span = from.s + e * (to.s - from.s);
      this.controls.apply();
      this.moving = f < 1;
      this.draw();
      this.onView();
      if (f < 1) {
        requestAnimationFrame(step);
      }
    };
    step();
  }

  /** Shows everything from a direction (the present one by default): the nominal where it is shown, else the scan. */
  fit(direction: readonly number[] = this.controls.direction.toArray(), on?: "scan" | "nominal") {
    const wanted = on ?? (this.display.nominalAlpha > 0 || this.display.edges ? "nominal" : "scan");
    const box = new Box3();
    const object: Object3D | undefined =
      wanted === "nominal" && this.nominal ? this.nominal.mesh : (this.scan?.object ?? this.nominal?.mesh);
    if (!object) {
      return;
    }

    // Exactly: the box of a turned box would be much too large.
    box.setFromObject(object, true);
    this.show(box, direction);
  }

  /** The first look at a piece: from where most of what was measured faces, as large as it is without stray points. */
  open(on: "scan" | "nominal") {
    if (!this.scan || this.scan.data.geometry.indices.length === 0) {
      this.fit(undefined, on);
      return;
    }

    const { positions, indices } = this.scan.data.geometry;
    const direction = firstDirection(positions, indices, this.scan.object.matrixWorld.toArray());
    if (on === "nominal" && this.nominal) {
      this.fit(direction, on);
      return;
    }

    const { min, max } = mostOf(positions);
    const box = new Box3(new Vector3(...min), new Vector3(...max));
    this.show(box.applyMatrix4(this.scan.object.matrixWorld), direction);
  }

  private show(box: Box3, direction: readonly number[]) {
    this.controls.reach = 4 * Math.max(box.getSize(new Vector3()).length(), 1);
    const d = new Vector3(...direction);
    const up = this.upFor(d);
    const target = box.getCenter(new Vector3()).toArray();
    this.look({ target, direction: [...direction], up: up.toArray(), span: this.spanOf(box, d, up) });
  }

  /** Height of the view that shows a box whole, seen from a direction, between the panels at the sides. */
  private spanOf(box: Box3, direction: Vector3, up: Vector3): number {
    const sides = 300;
    const right = up.clone().cross(direction).normalize();
    const above = direction.clone().cross(right).normalize();
    const size = box.getSize(new Vector3());
    const along = (axis: Vector3) => Math.abs(axis.x) * size.x + Math.abs(axis.y) * size.y + Math.abs(axis.z) * size.z;
    const aspect = Math.max(1, this.canvas.clientWidth - sides) / Math.max(1, this.canvas.clientHeight);
    return 1.12 * Math.max(along(above), along(right) / aspect, 1e-3);
  }

  /** Where a point appears in the picture, in CSS pixels. */
  project(point: readonly number[]): { x: number; y: number } {
    const v = new Vector3(...point).project(this.camera);
    return { x: ((v.x + 1) / 2) * this.canvas.clientWidth, y: ((1 - v.y) / 2) * this.canvas.clientHeight };
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

  draw() {
    if (!this.pending) {
      this.pending = true;
      requestAnimationFrame(() => {
        this.pending = false;
        this.render();
      });
    }
  }

  private upFor(direction: Vector3): Vector3 {
    const z = new Vector3(0, 0, 1);
    return Math.abs(direction.clone().normalize().dot(z)) > 0.95 ? new Vector3(0, 1, 0) : z;
  }

  private resize() {
    const parent = this.canvas.parentElement!;
    this.renderer.setPixelRatio(Math.min(2, devicePixelRatio));
    this.renderer.setSize(parent.clientWidth, parent.clientHeight);
    this.controls.apply();
    this.draw();
    this.onView();
  }

  private render() {
    const { back } = this.controls.axes();
    const d = this.display;
    if (this.scan) {
      const { objects, material, patches } = this.scan;
      objects.forEach((o) => (o.visible = d.scan));
      if (patches) {
        (patches.material as ShaderMaterial).uniforms.eye.value.copy(back);
      }

      material.uniforms.eye.value.copy(back);
      material.uniforms.showDeviation.value = d.deviation && this.scan.deviation !== null;
      material.uniforms.hideWithin.value = d.hideWithin;
      this.scan.useLevel(this.moving);
    }

    if (this.nominal) {
      this.nominal.mesh.visible = d.nominalAlpha > 0 || (d.edges && this.nominal.marked);
      // Over a map the mark only tints: its colours are what is read.
      this.nominal.material.uniforms.veil.value = d.nominalAlpha > 0 ? 0.8 : d.deviation ? 0.22 : 0.55;
      this.nominal.material.uniforms.alpha.value = d.nominalAlpha;
      this.nominal.material.uniforms.eye.value.copy(back);
      this.nominal.material.depthWrite = d.nominalAlpha >= 1;
      this.nominal.edges.visible = d.edges;
    }

    this.renderer.render(this.scene, this.camera);
  }

  /** What lies under a point of the picture, in CSS pixels. */
  pick(x: number, y: number): Hit | null {
    const { clientWidth: width, clientHeight: height } = this.canvas;
    this.ray.setFromCamera(new Vector2((2 * x) / width - 1, 1 - (2 * y) / height), this.camera);
    const pickNominal = this.display.pick === "nominal" && this.nominal;
    const object = pickNominal ? this.nominal!.mesh : this.display.scan ? this.scan?.object : null;
    if (!object || (!pickNominal && this.moving)) {
      return null;
    }

    if (object instanceof Points) {
      return this.pickPoint(x, y);
    }

    const hit = this.ray.intersectObject(object, false)[0];
    if (!hit || hit.faceIndex === null || hit.faceIndex === undefined) {
      return null;
    }

    const point = hit.point.toArray();
    const normal = hit.face!.normal.clone().transformDirection(object.matrixWorld).toArray();
    if (pickNominal) {
      return {
        point,
        normal,
        on: "nominal",
        vertex: null,
        deviation: null,
        label: this.nominal!.labels[hit.faceIndex] ?? null,
        face: this.nominal!.labels[hit.faceIndex] ?? null,
        nominal: { point, normal },
      };
    }

    const vertex = this.scan!.nearestVertex(hit.faceIndex, hit.point);
    const deviation = this.scan!.deviation?.[vertex] ?? null;
    return {
      point,
      normal,
      on: "scan",
      vertex,
      deviation,
      label: this.scan!.data.geometry.labels?.[hit.faceIndex] ?? null,
      ...(this.display.faces ? this.nominalUnder() : { face: null, nominal: null }),
    };
  }

  /** The point of a cloud under a place of the picture. Bare points have no side: they are taken to face the eye. */
  private pickPoint(x: number, y: number): Hit | null {
    const { clientWidth: width, clientHeight: height } = this.canvas;
    const scan = this.scan!;
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
      ...(this.display.faces ? this.nominalUnder() : { face: null, nominal: null }),
    };
  }

  /** What of the nominal the ray of the last pick meets first. */
  private nominalUnder(): Pick<Hit, "face" | "nominal"> {
    const hit = this.nominal && this.ray.intersectObject(this.nominal.mesh, false)[0];
    return hit?.faceIndex == null
      ? { face: null, nominal: null }
      : {
          face: this.nominal!.labels[hit.faceIndex] ?? null,
          nominal: { point: hit.point.toArray(), normal: hit.face!.normal.toArray() },
        };
  }

  private pointer = (e: PointerEvent) => {
    if (e.buttons !== 0) {
      return;
    }

    const first = this.hovering === null;
    this.hovering = e;
    if (first) {
      requestAnimationFrame(() => {
        const latest = this.hovering!;
        this.hovering = null;
        this.onHover(this.pick(latest.offsetX, latest.offsetY));
      });
    }
  };

  private press = (e: PointerEvent) => {
    if (e.button !== 0) {
      return;
    }

    const up = (u: PointerEvent) => {
      this.canvas.removeEventListener("pointerup", up);
      if (Math.hypot(u.clientX - e.clientX, u.clientY - e.clientY) < CLICK_SLACK) {
        this.moving = false;
        this.onClick(this.pick(u.offsetX, u.offsetY), u);
      }
    };
    this.canvas.addEventListener("pointerup", up);
  };
}
