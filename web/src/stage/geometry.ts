import { MeshoptDecoder } from "meshoptimizer/decoder";

/** Geometry as the server sends it: positions about an origin, triangles, and what goes with them. */
export interface Geometry {
  origin: [number, number, number];
  positions: Float32Array;
  indices: Uint32Array;
  /** The first so many triangles were measured; the rest are patches. */
  measured: number;
  /** A face number a triangle. */
  labels: Uint32Array | null;
  /** Segments, two end points each. */
  edges: Float32Array | null;
  /** A number a vertex: how far it was moved. */
  values: Float32Array | null;
}

/** Records in a piece of the block; the last is shorter. */
const PIECE = 65536;

/** Reads the "BGEO" block; see GeometryCodec in the server. */
export async function decode(buffer: ArrayBuffer): Promise<Geometry> {
  await MeshoptDecoder.ready;
  const view = new DataView(buffer);
  const magic = String.fromCharCode(...new Uint8Array(buffer, 0, 4));
  if (magic !== "BGEO" || view.getInt32(4, true) !== 4) {
    throw new Error("The geometry is of a version this page does not know; reload it.");
  }

  const [vertices, triangles, measured, segments, flags] = [8, 12, 16, 20, 24].map((at) => view.getInt32(at, true));
  const origin: [number, number, number] = [
    view.getFloat64(32, true),
    view.getFloat64(40, true),
    view.getFloat64(48, true),
  ];
  let at = 56;
  const records = (count: number, size: number, read = MeshoptDecoder.decodeVertexBuffer, times = 1) => {
    const all = new Uint8Array(count * size);
    for (let from = 0; from < count; from += PIECE) {
      const piece = Math.min(PIECE, count - from);
      const length = view.getInt32(at, true);
      const place = all.subarray(from * size, (from + piece) * size);
      read(place, piece * times, size / times, new Uint8Array(buffer, at + 4, length));
      at += 4 + length;
    }

    return all.buffer;
  };
  return {
    origin,
    measured,
    positions: new Float32Array(records(vertices, 12)),
    indices: new Uint32Array(records(triangles, 12, MeshoptDecoder.decodeIndexBuffer, 3)),
    labels: flags & 1 ? new Uint32Array(records(triangles, 4)) : null,
    edges: flags & 2 ? new Float32Array(records(segments, 24)) : null,
    values: flags & 4 ? new Float32Array(records(vertices, 4)) : null,
  };
}

/** Area-weighted vertex normals, and a third of the area of the measured triangles around each vertex. */
export function vertexData(
  positions: Float32Array,
  indices: Uint32Array,
  measured = indices.length / 3,
): { normals: Float32Array; areas: Float32Array } {
  const normals = new Float32Array(positions.length);
  // Of a cloud every point counts alike.
  const areas = new Float32Array(positions.length / 3).fill(indices.length === 0 ? 1 : 0);
  for (let t = 0; t < indices.length; t += 3) {
    const a = 3 * indices[t];
    const b = 3 * indices[t + 1];
    const c = 3 * indices[t + 2];
    const ux = positions[b] - positions[a];
    const uy = positions[b + 1] - positions[a + 1];
    const uz = positions[b + 2] - positions[a + 2];
    const vx = positions[c] - positions[a];
    const vy = positions[c + 1] - positions[a + 1];
    const vz = positions[c + 2] - positions[a + 2];
    const nx = uy * vz - uz * vy;
    const ny = uz * vx - ux * vz;
    const nz = ux * vy - uy * vx;
    const third = t < 3 * measured ? Math.sqrt(nx * nx + ny * ny + nz * nz) / 6 : 0;
    for (let k = 0; k < 3; k++) {
      const at = 3 * indices[t + k];
      normals[at] += nx;
      normals[at + 1] += ny;
      normals[at + 2] += nz;
      areas[at / 3] += third;
    }
  }

  for (let i = 0; i < normals.length; i += 3) {
    const length = Math.hypot(normals[i], normals[i + 1], normals[i + 2]) || 1;
    normals[i] /= length;
    normals[i + 1] /= length;
    normals[i + 2] /= length;
  }

  return { normals, areas };
}
