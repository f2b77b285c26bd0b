// Everything heavy about a mesh is done here, off the page's thread: normals, the picking index, a coarse level for orbiting.
import { MeshoptSimplifier } from "meshoptimizer/simplifier";
import { BufferAttribute, BufferGeometry } from "three";
import { MeshBVH } from "three-mesh-bvh";
import { decode, vertexData } from "./geometry";

const COARSE_ABOVE = 200_000;
const COARSE_TRIANGLES = 90_000;

self.onmessage = async (message: MessageEvent<{ id: number; buffer: ArrayBuffer }>) => {
  try {
    const geometry = decode(message.data.buffer);
    const { normals, areas } = vertexData(geometry.positions, geometry.indices);
    const three = new BufferGeometry();
    three.setAttribute("position", new BufferAttribute(geometry.positions, 3));
    three.setIndex(new BufferAttribute(geometry.indices, 1));
    const bvh =
      geometry.indices.length > 0
        ? MeshBVH.serialize(new MeshBVH(three, { indirect: true }), { cloneBuffers: false })
        : null;
    let coarse: Uint32Array | null = null;
    if (geometry.indices.length / 3 > COARSE_ABOVE) {
      await MeshoptSimplifier.ready;
      [coarse] = MeshoptSimplifier.simplifySloppy(
        geometry.indices,
        geometry.positions,
        3,
        null,
        3 * COARSE_TRIANGLES,
        0.01,
      );
    }

    self.postMessage({ id: message.data.id, geometry, normals, areas, bvh, coarse });
  } catch (error) {
    self.postMessage({ id: message.data.id, error: String((error as Error).message ?? error) });
  }
};
