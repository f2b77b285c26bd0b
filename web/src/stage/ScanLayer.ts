import { BufferAttribute, BufferGeometry, Matrix4, Mesh, Points, type ShaderMaterial, type Vector3 } from "three";
import { acceleratedRaycast, MeshBVH } from "three-mesh-bvh";
import { Detail } from "./levels";
import { patchMaterial, scanMaterial, showDeviation } from "./materials";
import type { PreparedMesh } from "./prepared";
import type { Display } from "./StageView";

/**
 * NaN cannot be told apart in every shader compiler: no data, and where nothing was asked, are sent as huge numbers.
 * Between two of a kind each the larger one wins.
 */
const NO_DATA = 1e9;
const NOT_ASKED = 1e18;

/** The scan on the stage: one set of vertices with deviation and mark, full and coarse triangles over it. */
export class ScanLayer {
  readonly object: Mesh | Points;
  /** Patches that fill holes: drawn dotted, never picked or coloured. */
  readonly patches: Mesh | null = null;
  readonly material: ShaderMaterial = scanMaterial();
  deviation: Float32Array | null = null;
  private readonly detail: Detail;

  constructor(readonly data: PreparedMesh) {
    const geometry = new BufferGeometry();
    const vertices = data.geometry.positions.length / 3;
    geometry.setAttribute("position", new BufferAttribute(data.geometry.positions, 3));
    geometry.setAttribute("normal", new BufferAttribute(data.normals, 3));
    geometry.setAttribute("deviation", new BufferAttribute(new Float32Array(vertices), 1));
    geometry.setAttribute("marked", new BufferAttribute(new Float32Array(vertices), 1));
    const levels = data.levels.map((l) => new BufferAttribute(l, 1));
    if (data.geometry.indices.length === 0) {
      this.object = new Points(geometry, this.material);
      this.detail = new Detail(geometry, null, vertices / 3, levels);
    } else {
      const { indices, measured } = data.geometry;
      const full = new BufferAttribute(indices.subarray(0, 3 * measured), 1);
      this.detail = new Detail(geometry, full, measured, levels);
      if (3 * measured < indices.length) {
        const filled = new BufferGeometry();
        filled.setAttribute("position", geometry.getAttribute("position"));
        filled.setAttribute("normal", geometry.getAttribute("normal"));
        filled.setIndex(new BufferAttribute(indices.subarray(3 * measured), 1));
        this.patches = new Mesh(filled, patchMaterial());
        this.patches.matrixAutoUpdate = false;
      }

      geometry.setIndex(full);
      geometry.boundsTree = data.bvh ? MeshBVH.deserialize(data.bvh, geometry, { setIndex: false }) : undefined;
      this.object = new Mesh(geometry, this.material);
      this.object.raycast = acceleratedRaycast;
    }

    this.object.matrixAutoUpdate = false;
  }

  get objects(): (Mesh | Points)[] {
    return this.patches ? [this.object, this.patches] : [this.object];
  }

  /** Coordinates of the vertices, and where they are put. */
  get positions(): Float32Array {
    return this.data.geometry.positions;
  }

  get place(): Matrix4 {
    return this.object.matrix;
  }

  dispose() {
    this.object.geometry.dispose();
    this.material.dispose();
    this.patches?.geometry.dispose();
  }

  /** Scan to nominal, 16 numbers row-major; null leaves the scan in its own frame. */
  /** As it is to be shown, lit from the eye. */
  show(display: Display, eye: Vector3) {
    this.objects.forEach((o) => (o.visible = display.scan));
    if (this.patches) {
      (this.patches.material as ShaderMaterial).uniforms.eye.value.copy(eye);
    }

    showDeviation(this.material, display.deviation && this.deviation !== null);
    const { uniforms } = this.material;
    uniforms.eye.value.copy(eye);
    uniforms.hideWithin.value = display.hideWithin;
    uniforms.seeThrough.value = display.seeThrough && display.deviation;
  }

  setTransform(transform: readonly number[] | null) {
    const motion = new Matrix4();
    if (transform) {
      motion.set(...(transform as unknown as Parameters<Matrix4["set"]>));
    }

    this.object.matrix.copy(motion.multiply(new Matrix4().makeTranslation(...this.data.geometry.origin)));
    this.object.updateMatrixWorld(true);
    this.patches?.matrix.copy(this.object.matrix);
    this.patches?.updateMatrixWorld(true);
  }

  setDeviation(values: Float32Array | null) {
    this.deviation = values;
    const attribute = this.object.geometry.getAttribute("deviation") as BufferAttribute;
    if (values && values.length === attribute.count) {
      const sent = attribute.array as Float32Array;
      for (let i = 0; i < values.length; i++) {
        sent[i] = Number.isNaN(values[i]) ? NO_DATA : values[i] === Infinity ? NOT_ASKED : values[i];
      }

      attribute.needsUpdate = true;
    }
  }

  mark(marked: (vertex: number) => boolean) {
    const attribute = this.object.geometry.getAttribute("marked") as BufferAttribute;
    for (let i = 0; i < attribute.count; i++) {
      attribute.array[i] = marked(i) ? 1 : 0;
    }

    attribute.needsUpdate = true;
  }

  /** A coarse level keeps a large scan fluid while something moves; null: all of it. */
  useLevel(most: number | null) {
    this.detail.use(most);
  }

  /** The corner of a triangle nearest to a point in world coordinates. */
  nearestVertex(triangle: number, point: Vector3): number {
    const { positions, indices } = this.data.geometry;
    const local = this.object.worldToLocal(point.clone());
    const distance = (v: number) =>
      (positions[3 * v] - local.x) ** 2 + (positions[3 * v + 1] - local.y) ** 2 + (positions[3 * v + 2] - local.z) ** 2;
    const corners = [...indices.subarray(3 * triangle, 3 * triangle + 3)];
    return corners.reduce((best, v) => (distance(v) < distance(best) ? v : best));
  }
}
