import { BufferAttribute, BufferGeometry, Matrix4, Mesh, Points, type ShaderMaterial, type Vector3 } from "three";
import { acceleratedRaycast, MeshBVH } from "three-mesh-bvh";
import { patchMaterial, scanMaterial } from "./materials";
import type { PreparedMesh } from "./prepared";

/** NaN cannot be told apart in every shader compiler: no data is sent as a huge number. */
const NO_DATA = 1e9;

/** The scan on the stage: one set of vertices with deviation and mark, full and coarse triangles over it. */
export class ScanLayer {
  readonly object: Mesh | Points;
  /** Patches that fill holes: drawn dotted, never picked or coloured. */
  readonly patches: Mesh | null = null;
  readonly material: ShaderMaterial = scanMaterial();
  deviation: Float32Array | null = null;
  private readonly full: BufferAttribute | null = null;
  private readonly coarse: BufferAttribute | null = null;

  constructor(readonly data: PreparedMesh) {
    const geometry = new BufferGeometry();
    const vertices = data.geometry.positions.length / 3;
    geometry.setAttribute("position", new BufferAttribute(data.geometry.positions, 3));
    geometry.setAttribute("normal", new BufferAttribute(data.normals, 3));
    geometry.setAttribute("deviation", new BufferAttribute(new Float32Array(vertices), 1));
    geometry.setAttribute("marked", new BufferAttribute(new Float32Array(vertices), 1));
    if (data.geometry.indices.length === 0) {
      this.object = new Points(geometry, this.material);
    } else {
      const { indices, measured, coarse } = data.geometry;
      this.full = new BufferAttribute(indices.subarray(0, 3 * measured), 1);
      this.coarse = coarse && new BufferAttribute(coarse, 1);
      if (3 * measured < indices.length) {
        const filled = new BufferGeometry();
        filled.setAttribute("position", geometry.getAttribute("position"));
        filled.setAttribute("normal", geometry.getAttribute("normal"));
        filled.setIndex(new BufferAttribute(indices.subarray(3 * measured), 1));
        this.patches = new Mesh(filled, patchMaterial());
        this.patches.matrixAutoUpdate = false;
      }

      geometry.setIndex(this.full);
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
        sent[i] = Number.isNaN(values[i]) ? NO_DATA : values[i];
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

  /** A coarse level keeps a large scan fluid while the camera moves. */
  useLevel(moving: boolean) {
    const index = moving && this.coarse ? this.coarse : this.full;
    if (index && this.object.geometry.index !== index) {
      this.object.geometry.setIndex(index);
    }
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
