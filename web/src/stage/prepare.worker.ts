// Everything heavy about a mesh is done here, off the page's thread: normals, areas, the picking index.
import { BufferAttribute, BufferGeometry } from "three";
import { MeshBVH } from "three-mesh-bvh";
import { decode, vertexData } from "./geometry";
import { coarserLevels, thinnedLevels } from "./levels";

self.onmessage = async (message: MessageEvent<{ id: number; buffer: ArrayBuffer }>) => {
  try {
    const geometry = await decode(message.data.buffer);
    const { normals, areas } = vertexData(geometry.positions, geometry.indices, geometry.measured);
    const three = new BufferGeometry();
    three.setAttribute("position", new BufferAttribute(geometry.positions, 3));
    three.setIndex(new BufferAttribute(geometry.indices.subarray(0, 3 * geometry.measured), 1));
    const bvh =
      geometry.measured > 0 ? MeshBVH.serialize(new MeshBVH(three, { indirect: true }), { cloneBuffers: false }) : null;
    const levels =
      geometry.measured === 0
        ? thinnedLevels(geometry.positions.length / 3)
        : coarserLevels(
            geometry.positions,
            geometry.indices.subarray(0, 3 * geometry.measured),
            areas.reduce((a, b) => a + b, 0),
          );
    self.postMessage({ id: message.data.id, geometry, normals, areas, bvh, levels });
  } catch (error) {
    self.postMessage({ id: message.data.id, error: String((error as Error).message ?? error) });
  }
};
