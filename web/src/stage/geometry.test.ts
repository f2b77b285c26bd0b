import { MeshoptEncoder } from "meshoptimizer/encoder";
import { describe, expect, it } from "vitest";
import { decode, vertexData } from "./geometry";

const bytes = (of: Float32Array | Uint32Array) => new Uint8Array(of.buffer);

/** A square of two triangles, the second a patch, with labels, an edge and values; encoded by the codec's own encoder. */
async function block(): Promise<ArrayBuffer> {
  await MeshoptEncoder.ready;
  const records = (of: Float32Array | Uint32Array, numbers: number) =>
    MeshoptEncoder.encodeVertexBuffer(bytes(of), of.length / numbers, 4 * numbers);
  const pieces = [
    records(new Float32Array([0, 0, 0, 2, 0, 0, 2, 2, 0, 0, 2, 0]), 3),
    MeshoptEncoder.encodeIndexBuffer(bytes(new Uint32Array([0, 1, 2, 0, 2, 3])), 6, 4),
    records(new Uint32Array([7, 8]), 1),
    records(new Float32Array([0, 0, 0, 1, 1, 1]), 6),
    records(new Float32Array([0.5, 0.25, 0, 0]), 1),
  ];
  const buffer = new ArrayBuffer(56 + pieces.reduce((sum, p) => sum + 4 + p.length, 0));
  const view = new DataView(buffer);
  [..."BGEO"].forEach((c, i) => view.setUint8(i, c.charCodeAt(0)));
  [4, 4, 2, 1, 1, 7].forEach((v, i) => view.setInt32(4 + 4 * i, v, true));
  [10, 20, 30].forEach((v, i) => view.setFloat64(32 + 8 * i, v, true));
  let at = 56;
  for (const piece of pieces) {
    view.setInt32(at, piece.length, true);
    new Uint8Array(buffer).set(piece, at + 4);
    at += 4 + piece.length;
  }

  return buffer;
}

describe("the geometry block", () => {
  it("is read with its origin, labels, edges and values", async () => {
    const g = await decode(await block());
    expect(g.origin).toEqual([10, 20, 30]);
    // A triangle may begin with another of its corners.
    expect([...g.indices.slice(0, 3)].sort()).toEqual([0, 1, 2]);
    expect([...g.indices.slice(3)].sort()).toEqual([0, 2, 3]);
    expect([...g.positions.slice(6, 9)]).toEqual([2, 2, 0]);
    expect([...g.labels!]).toEqual([7, 8]);
    expect([...g.edges!]).toEqual([0, 0, 0, 1, 1, 1]);
    expect([...g.values!]).toEqual([0.5, 0.25, 0, 0]);
  });

  it("gives a square of side 2 its area and one normal", async () => {
    const g = await decode(await block());
    const { normals, areas } = vertexData(g.positions, g.indices);
    expect(areas.reduce((a, b) => a + b)).toBeCloseTo(4, 5);
    expect([...normals.slice(0, 3)]).toEqual([0, 0, 1]);
  });

  it("counts no area of a patch", async () => {
    const g = await decode(await block());
    const { areas } = vertexData(g.positions, g.indices, g.measured);
    expect(areas.reduce((a, b) => a + b)).toBeCloseTo(2, 5);
    expect(areas[3]).toBe(0);
  });

  it("refuses something else", () => expect(decode(new ArrayBuffer(64))).rejects.toThrow(/version/));

  it("count every point of a cloud alike", () =>
    expect([...vertexData(new Float32Array(9), new Uint32Array(0)).areas]).toEqual([1, 1, 1]));
});
