import type { SerializedBVH } from "three-mesh-bvh";
import type { Geometry } from "./geometry";

/** A mesh ready for the stage. */
export interface PreparedMesh {
  geometry: Geometry;
  normals: Float32Array;
  areas: Float32Array;
  bvh: SerializedBVH | null;
  /** Indices of coarser levels over the same vertices, each coarser than the one before. */
  levels: Uint32Array[];
}

let worker: Worker | null = null;
let next = 1;
const waiting = new Map<number, { resolve: (m: PreparedMesh) => void; reject: (e: Error) => void }>();

/** Hands a geometry block to the worker. */
export function prepare(buffer: ArrayBuffer): Promise<PreparedMesh> {
  if (!worker) {
    worker = new Worker(new URL("./prepare.worker.ts", import.meta.url), { type: "module" });
    worker.onmessage = (e: MessageEvent<PreparedMesh & { id: number; error?: string }>) => {
      const entry = waiting.get(e.data.id);
      waiting.delete(e.data.id);
      if (e.data.error) {
        entry?.reject(new Error(e.data.error));
      } else {
        entry?.resolve(e.data);
      }
    };
  }

  const id = next++;
  return new Promise((resolve, reject) => {
    waiting.set(id, { resolve, reject });
    worker!.postMessage({ id, buffer }, [buffer]);
  });
}
