import { Box3, type Object3D, OrthographicCamera, Scene, Vector3, WebGLRenderer } from "three";
import type { FigurePlan } from "../api/client";
import { StageControls } from "./controls";
import { type Evidence, EvidenceLayer } from "./EvidenceLayer";
import { fly } from "./flight";
import { firstDirection, meanNormal, mostOf } from "./firstView";
import { Pace } from "./levels";
import { setScale } from "./materials";
import { NominalLayer } from "./NominalLayer";
import { type Hit, Picker } from "./Picker";
import type { PreparedMesh } from "./prepared";
import type { Scale } from "./ramp";
import { ScanLayer } from "./ScanLayer";
import { Sighting, upFor } from "./Sighting";

export type FigureCamera = FigurePlan["camera"];

export interface Display {
  scan: boolean;
  nominalAlpha: number;
  edges: boolean;
  deviation: boolean;
  hideWithin: boolean;
  seeThrough: boolean;
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
  readonly sighting: Sighting;
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
    seeThrough: false,
    pick: "scan",
    faces: false,
  };
  private readonly followers = new Set<() => void>();
  private pending = false;
  private moving = false;
  private pace = new Pace();
  private hovering: PointerEvent | null = null;
  private outlined: { of: Object3D; box: Box3 } | null = null;
  private readonly watch: ResizeObserver;

  constructor(private readonly canvas: HTMLCanvasElement) {
    this.renderer = new WebGLRenderer({ canvas, antialias: false, alpha: true, preserveDrawingBuffer: true });
    this.renderer.setClearAlpha(0);
    this.controls = new StageControls(this.camera, canvas, (moving) => {
      this.moving = moving;
      this.draw();
      this.followed();
    });
    this.sighting = new Sighting(this.camera, this.controls, canvas);
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

  setScale(scale: Scale) {
    if (this.scan) {
      setScale(this.scan.material, scale);
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
    fly(this.controls, { target, direction, span }, (moving) => {
      this.moving = moving;
      this.draw();
      this.followed();
    });
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
    const up = upFor(d);
    const target = box.getCenter(new Vector3()).toArray();
    this.look({ target, direction: [...direction], up: up.toArray(), span: this.sighting.spanOf(box, d, up) });
  }

  /** From where to where the part reaches across the picture, in CSS pixels. */
  silhouette(): { left: number; right: number } {
    const object = this.nominal?.mesh ?? this.scan?.object;
    if (!object) {
      return { left: 0, right: 0 };
    }

    this.outlined =
      this.outlined?.of === object ? this.outlined : { of: object, box: new Box3().setFromObject(object, true) };
    const { min, max } = this.outlined.box;
    const xs = [0, 1, 2, 3, 4, 5, 6, 7].map(
      (k) => this.sighting.project([k & 1 ? min.x : max.x, k & 2 ? min.y : max.y, k & 4 ? min.z : max.z]).x,
    );
    return { left: Math.min(...xs), right: Math.max(...xs) };
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

  draw() {
    if (!this.pending) {
      this.pending = true;
      requestAnimationFrame(() => {
        this.pending = false;
        this.render();
      });
    }
  }

  private resize() {
    const parent = this.canvas.parentElement!;
    this.renderer.setSize(parent.clientWidth, parent.clientHeight);
    this.controls.apply();
    this.draw();
    this.followed();
  }

  private render() {
    const { back } = this.controls.axes();
    this.scan?.show(this.display, back);
    this.nominal?.show(this.display, back);
    this.useLevels();
    this.useRatio(Math.min(2, devicePixelRatio) * (this.moving && this.pace.slow ? 0.4 : 1));
    if (!this.moving || !this.pace.begin()) {
      this.renderer.render(this.scene, this.camera);
      return;
    }

    const from = performance.now();
    this.renderer.render(this.scene, this.camera);
    // Drawing ends somewhere else, later: reading a point of the picture waits for it.
    this.renderer.getContext().readPixels(0, 0, 1, 1, 0x1908, 0x1401, new Uint8Array(4));
    const { triangles, points } = this.renderer.info.render;
    this.pace.told(performance.now() - from, triangles + points / 3);
  }

  private useRatio(ratio: number) {
    if (this.renderer.getPixelRatio() !== ratio) {
      this.renderer.setPixelRatio(ratio);
    }
  }

  /** While something moves, what is shown shares the triangles that the machine draws in time. */
  private useLevels() {
    const shown = Number(this.display.scan && this.scan !== null) + Number(this.nominal?.mesh.visible ?? false);
    const most = this.moving ? this.pace.most / Math.max(1, shown) : null;
    this.scan?.useLevel(most);
    this.nominal?.useLevel(most);
  }

  /** What lies under a point of the picture, in CSS pixels. */
  pick(x: number, y: number): Hit | null {
    if (this.moving) {
      return null;
    }

    this.useLevels();
    return this.picker.under(x, y, {
      scan: this.scan,
      nominal: this.nominal,
      display: this.display,
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
