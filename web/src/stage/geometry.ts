/** Geometry as the server sends it: positions about an origin, triangles, face or piece labels, edge segments. */
export interface Geometry {
  origin: [number, number, number];
  positions: Float32Array;
  indices: Uint32Array;
  labels: Uint32Array | null;
  edges: Float32Array | null;
}

/** Reads the "BGEO" block; see GeometryCodec in the server. */
export function decode(buffer: ArrayBuffer): Geometry {
  const view = new DataView(buffer);
  const magic = String.fromCharCode(...new Uint8Array(buffer, 0, 4));
  if (magic !== "BGEO" || view.getInt32(4, true) !== 1) {
    throw new Error("The geometry is of a version this page does not know; reload it.");
  }

  const [vertices, triangles, segments, flags] = [8, 12, 16, 20].map((at) => view.getInt32(at, true));
  const origin: [number, number, number] = [
    view.getFloat64(24, true),
    view.getFloat64(32, true),
    view.getFloat64(40, true),
  ];
  let at = 48;
  const take = <T>(make: (b: ArrayBuffer, o: number, n: number) => T, n: number): T => {
    const part = make(buffer, at, n);
    at += 4 * n;
    return part;
  };
  const floats = (b: ArrayBuffer, o: number, n: number) => new Float32Array(b, o, n);
  const ints = (b: ArrayBuffer, o: number, n: number) => new Uint32Array(b, o, n);
  return {
    origin,
    positions: take(floats, 3 * vertices),
    indices: take(ints, 3 * triangles),
    labels: flags & 1 ? take(ints, triangles) : null,
    edges: flags & 2 ? take(floats, 6 * segments) : null,
  };
}

/** Area-weighted vertex normals, and a third of the area of the triangles around each vertex. */
export function vertexData(
  positions: Float32Array,
  indices: Uint32Array,
): { normals: Float32Array; areas: Float32Array } {
  const normals = new Float32Array(positions.length);
  const areas = new Float32Array(positions.length / 3);
  for (let t = 0; t < indices.length; t += 3) {
    const [a, b, c] = [3 * indices[t], 3 * indices[t + 1], 3 * indices[t + 2]];
    const [ux, uy, uz] = [0, 1, 2].map((k) => positions[b + k] - positions[a + k]);
    const [vx, vy, vz] = [0, 1, 2].map((k) => positions[c + k] - positions[a + k]);
    const [nx, ny, nz] = [uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx];
    const third = Math.hypot(nx, ny, nz) / 6;
    for (const at of [a, b, c]) {
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
