// Everything heavy about a mesh is done here, off the page's thread: normals, areas, the picking index.
import { BufferAttribute, BufferGeometry } from "three";
import { MeshBVH } from "three-mesh-bvh";
import { decode, vertexData } from "./geometry";

self.onmessage = (message: MessageEvent<{ id: number; buffer: ArrayBuffer }>) => {
  try {
    const geometry = decode(message.data.buffer);
    const { normals, areas } = vertexData(geometry.positions, geometry.indices, geometry.measured);
    const three = new BufferGeometry();
    three.setAttribute("position", new BufferAttribute(geometry.positions, 3));
    three.setIndex(new BufferAttribute(geometry.indices.subarray(0, 3 * geometry.measured), 1));
    const bvh =
      geometry.measured > 0 ? MeshBVH.serialize(new MeshBVH(three, { indirect: true }), { cloneBuffers: false }) : null;
    self.postMessage({ id: message.data.id, geometry, normals, areas, bvh });
  } catch (error) {
    self.postMessage({ id: message.data.id, error: String((error as Error).message ?? error) });
  }
};
