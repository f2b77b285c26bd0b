import { Box3, type Object3D, OrthographicCamera, Scene, type ShaderMaterial, Vector3, WebGLRenderer } from "three";
import type { FigurePlan } from "../api/client";
import { StageControls } from "./controls";
import { type Evidence, EvidenceLayer } from "./EvidenceLayer";
import { firstDirection, meanNormal, mostOf } from "./firstView";
import type { Sight } from "./gripping";
import { NominalLayer } from "./NominalLayer";
import { type Hit, Picker } from "./Picker";
import type { PreparedMesh } from "./prepared";
import { ScanLayer } from "./ScanLayer";

export type FigureCamera = FigurePlan["camera"];

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

/** The 3D view: draws on demand, a coarse level while the camera moves, full detail at rest. Knows nothing of React. */
export class StageView {
  onHover: (hit: Hit | null) => void = () => undefined;
  onClick: (hit: Hit | null, event: PointerEvent) => void = () => undefined;
  readonly controls: StageControls;
  private readonly renderer: WebGLRenderer;
  private readonly scene = new Scene();
  private readonly camera = new OrthographicCamera();
  private readonly picker: Picker;
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
  private readonly followers = new Set<() => void>();
  private pending = false;
  private moving = false;
  private hovering: PointerEvent | null = null;
  private readonly watch: ResizeObserver;

  constructor(private readonly canvas: HTMLCanvasElement) {
    this.renderer = new WebGLRenderer({ canvas, antialias: false, alpha: true, preserveDrawingBuffer: true });
    this.renderer.setClearAlpha(0);
    this.controls = new StageControls(this.camera, canvas, (moving) => {
      this.moving = moving;
      this.draw();
      this.followed();
    });
    this.picker = new Picker(this.camera, this.controls, canvas);
    this.watch = new ResizeObserver(() => this.resize());
    this.watch.observe(canvas.parentElement!);
    canvas.addEventListener("pointermove", this.pointer);
    canvas.addEventListener("pointerleave", () => this.onHover(null));
    canvas.addEventListener("pointerdown", this.press);
    this.resize();
  }

  /** Calls back whenever the part is seen in another way; what is returned ends it. */
  follow(view: () => void): () => void {
    this.followers.add(view);
    return () => this.followers.delete(view);
  }

  private followed() {
    this.followers.forEach((view) => view());
  }

  /** While a hand moves the scan itself, a coarse level of it is enough. */
  hold(moving: boolean) {
    this.moving = moving;
    this.draw();
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
    this.followed();
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
      this.followed();
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

  /** Middle of the box round the scan as it stands, or round the nominal; null without one. */
  middleOf(what: "scan" | "nominal"): [number, number, number] | null {
    const object = what === "scan" ? this.scan?.object : this.nominal?.mesh;
    return object ? new Box3().setFromObject(object, true).getCenter(new Vector3()).toArray() : null;
  }

  /** Where the scan faces at a place of it, as it stands: the mean over all that lies within a radius and on the same side. */
  facing(point: readonly number[], normal: readonly number[], radius: number): [number, number, number] | null {
    if (!this.scan) {
      return null;
    }

    const place = this.scan.place;
    const at = new Vector3(...point).applyMatrix4(place.clone().invert());
    const side = new Vector3(...normal).transformDirection(place.clone().invert());
    const mean = meanNormal(this.scan.positions, this.scan.data.normals, at.toArray(), side.toArray(), radius);
    return mean && new Vector3(...mean).transformDirection(place).toArray();
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
    this.followed();
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
    return this.picker.under(x, y, {
      scan: this.scan,
      nominal: this.nominal,
      display: this.display,
      moving: this.moving,
    });
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
