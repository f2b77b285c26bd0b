import {
  BufferAttribute,
  BufferGeometry,
  type DataTexture,
  LineBasicMaterial,
  LineSegments,
  Mesh,
  type ShaderMaterial,
  type Vector3,
} from "three";
import { acceleratedRaycast, MeshBVH } from "three-mesh-bvh";
import type { Geometry } from "./geometry";
import { Detail } from "./levels";
import { nominalMaterial } from "./materials";
import type { PreparedMesh } from "./prepared";
import type { Display } from "./StageView";

/** The nominal on the stage: faces that can be picked and marked, and its sharp edges. */
export class NominalLayer {
  readonly mesh: Mesh;
  readonly edges: LineSegments;
  readonly labels: Uint32Array;
  readonly material: ShaderMaterial;
  private readonly states: Float32Array;
  private readonly table: DataTexture;
  private readonly detail: Detail;

  constructor({ geometry: g, levels }: PreparedMesh, faces: number) {
    const geometry = new BufferGeometry();
    const { positions, face, indices, first } = byFace(g);
    geometry.setAttribute("position", new BufferAttribute(positions, 3));
    geometry.setAttribute("face", new BufferAttribute(face, 1));
    const full = new BufferAttribute(indices, 1);
    geometry.setIndex(full);
    this.detail = new Detail(
      geometry,
      full,
      indices.length / 3,
      levels.map(
        (l) =>
          new BufferAttribute(
            Uint32Array.from(l, (v) => first[v]),
            1,
          ),
      ),
    );
    geometry.boundsTree = new MeshBVH(geometry, { indirect: true });
    ({ material: this.material, states: this.states, table: this.table } = nominalMaterial(faces));
    this.mesh = new Mesh(geometry, this.material);
    this.mesh.raycast = acceleratedRaycast;
    this.mesh.position.set(...g.origin);
    this.mesh.updateMatrixWorld(true);
    const lines = new BufferGeometry();
    lines.setAttribute("position", new BufferAttribute(g.edges ?? new Float32Array(), 3));
    this.edges = new LineSegments(lines, new LineBasicMaterial({ color: 0x33427a, transparent: true, opacity: 0.65 }));
    this.edges.position.set(...g.origin);
    this.labels = g.labels ?? new Uint32Array();
  }

  dispose() {
    this.mesh.geometry.dispose();
    this.edges.geometry.dispose();
    this.material.dispose();
    this.table.dispose();
  }

  /** As it is to be shown, lit from the eye. */
  show(display: Display, eye: Vector3) {
    const alpha = display.nominalAlpha;
    this.mesh.visible = alpha > 0 || (display.edges && this.marked);
    this.edges.visible = display.edges;
    this.material.depthWrite = alpha >= 1;
    const { uniforms } = this.material;
    // Over a map the mark only tints: its colours are what is read.
    uniforms.veil.value = alpha > 0 ? 0.8 : display.deviation ? 0.22 : 0.55;
    uniforms.alpha.value = alpha;
    uniforms.eye.value.copy(eye);
  }

  /** A coarse level keeps a large nominal fluid while something moves; null: all of it. */
  useLevel(most: number | null) {
    this.detail.use(most);
  }

  /** Whether any face is chosen, and must show even where the nominal itself does not. */
  get marked(): boolean {
    return this.states.includes(2);
  }

  /** Marks chosen faces and the hovered one; says whether the picture changes by it. */
  markFaces(chosen: readonly number[], hovered: number | null): boolean {
    const before = this.states.slice();
    this.states.fill(0);
    if (hovered !== null) {
      this.states[hovered] = 1;
    }

    for (const f of chosen) {
      this.states[f] = 2;
    }

    const changed = this.states.some((state, i) => state !== before[i]);
    if (changed) {
      this.table.needsUpdate = true;
    }

    return changed;
  }
}

interface ByFace {
  positions: Float32Array;
  face: Float32Array;
  indices: Uint32Array;
  /** One of the copies of each vertex. */
  first: Uint32Array;
}

/** The triangles with vertices of each face's own, so that a vertex knows its face; far fewer than three a triangle. */
function byFace(g: Geometry): ByFace {
  const positions: number[] = [];
  const face: number[] = [];
  const indices = new Uint32Array(g.indices.length);
  const copies = new Map<number, number>();
  const vertices = g.positions.length / 3;
  const first = new Uint32Array(vertices);
  for (let i = 0; i < g.indices.length; i++) {
    const [vertex, label] = [g.indices[i], g.labels ? g.labels[Math.floor(i / 3)] : 0];
    const key = label * vertices + vertex;
    let copy = copies.get(key);
    if (copy === undefined) {
      copy = face.length;
      copies.set(key, copy);
      first[vertex] = copy;
      positions.push(...g.positions.subarray(3 * vertex, 3 * vertex + 3));
      face.push(label);
    }

    indices[i] = copy;
  }

  return { positions: new Float32Array(positions), face: new Float32Array(face), indices, first };
}
