import { describe, expect, it } from "vitest";
import { decode, vertexData } from "./geometry";

function block(): ArrayBuffer {
  const buffer = new ArrayBuffer(48 + 4 * 12 + 4 * 6 + 4 * 2 + 4 * 6);
  const view = new DataView(buffer);
  [..."BGEO"].forEach((c, i) => view.setUint8(i, c.charCodeAt(0)));
  [1, 4, 2, 1, 3].forEach((v, i) => view.setInt32(4 + 4 * i, v, true));
  [10, 20, 30].forEach((v, i) => view.setFloat64(24 + 8 * i, v, true));
  [0, 0, 0, 2, 0, 0, 2, 2, 0, 0, 2, 0].forEach((v, i) => view.setFloat32(48 + 4 * i, v, true));
  [0, 1, 2, 0, 2, 3].forEach((v, i) => view.setUint32(96 + 4 * i, v, true));
  [7, 8].forEach((v, i) => view.setUint32(120 + 4 * i, v, true));
  return buffer;
}

describe("the geometry block", () => {
  it("is read with its origin, labels and edges", () => {
    const g = decode(block());
    expect(g.origin).toEqual([10, 20, 30]);
    expect([...g.indices]).toEqual([0, 1, 2, 0, 2, 3]);
    expect([...g.labels!]).toEqual([7, 8]);
    expect(g.edges).toHaveLength(6);
  });

  it("gives a square of side 2 its area and one normal", () => {
    const g = decode(block());
    const { normals, areas } = vertexData(g.positions, g.indices);
    expect(areas.reduce((a, b) => a + b)).toBeCloseTo(4, 5);
    expect([...normals.slice(0, 3)]).toEqual([0, 0, 1]);
  });

  it("refuses something else", () => expect(() => decode(new ArrayBuffer(64))).toThrow(/version/));
});
