import { describe, expect, it } from "vitest";
import { decode, vertexData } from "./geometry";

/** A square of two triangles, the second a patch, with labels, an edge and values. */
function block(): ArrayBuffer {
  const floats = [0, 0, 0, 2, 0, 0, 2, 2, 0, 0, 2, 0];
  const ints = [0, 1, 2, 0, 2, 3, 7, 8];
  const tail = [0, 0, 0, 1, 1, 1, 0.5, 0.25, 0, 0];
  const buffer = new ArrayBuffer(56 + 4 * (floats.length + ints.length + tail.length));
  const view = new DataView(buffer);
  [..."BGEO"].forEach((c, i) => view.setUint8(i, c.charCodeAt(0)));
  [3, 4, 2, 1, 1, 7].forEach((v, i) => view.setInt32(4 + 4 * i, v, true));
  [10, 20, 30].forEach((v, i) => view.setFloat64(32 + 8 * i, v, true));
  floats.forEach((v, i) => view.setFloat32(56 + 4 * i, v, true));
  ints.forEach((v, i) => view.setUint32(104 + 4 * i, v, true));
  tail.forEach((v, i) => view.setFloat32(136 + 4 * i, v, true));
  return buffer;
}

describe("the geometry block", () => {
  it("is read with its origin, labels, edges and values", () => {
    const g = decode(block());
    expect(g.origin).toEqual([10, 20, 30]);
    expect([...g.indices]).toEqual([0, 1, 2, 0, 2, 3]);
    expect([...g.labels!]).toEqual([7, 8]);
    expect(g.edges).toHaveLength(6);
    expect([...g.values!]).toEqual([0.5, 0.25, 0, 0]);
  });

  it("gives a square of side 2 its area and one normal", () => {
    const g = decode(block());
    const { normals, areas } = vertexData(g.positions, g.indices);
    expect(areas.reduce((a, b) => a + b)).toBeCloseTo(4, 5);
    expect([...normals.slice(0, 3)]).toEqual([0, 0, 1]);
  });

  it("counts no area of a patch", () => {
    const g = decode(block());
    const { areas } = vertexData(g.positions, g.indices, g.measured);
    expect(areas.reduce((a, b) => a + b)).toBeCloseTo(2, 5);
    expect(areas[3]).toBe(0);
  });

  it("refuses something else", () => expect(() => decode(new ArrayBuffer(64))).toThrow(/version/));

  it("count every point of a cloud alike", () =>
    expect([...vertexData(new Float32Array(9), new Uint32Array(0)).areas]).toEqual([1, 1, 1]));
});
