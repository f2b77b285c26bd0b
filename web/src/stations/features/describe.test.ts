import { describe, expect, it } from "vitest";
import { beside, describeFace, parameters } from "./describe";

describe("faces in words and numbers", () => {
  it("calls an internal cylinder a bore with its radius", () => {
    const face = {
      id: 3,
      kind: "cylinder",
      area: 10,
      internal: true,
      numbers: [0, 0, 0, 0, 0, 1, 8.02],
      center: [],
      start: 0,
      end: 1,
      body: 0,
      color: null,
    };
    expect(describeFace(face)).toBe("bore, ⌀16.040");
  });

  it("compares axes at the same height and planes at the same place", () => {
    expect(beside("cylinder", [0, 0, -1, 0, 0, 1, 4], [0.1, 0, 37, 0, 0, 1, 4])).toEqual([0, 0, 37, 0, 0, 1, 4]);
    expect(beside("plane", [5, 5, 2, 0, 0, 1], [1, 2, 2.5, 0, 0, 1])).toEqual([1, 2, 2, 0, 0, 1]);
  });

  it("gives a cylinder's diameter first", () =>
    expect(parameters("cylinder", [0, 0, 0, 0, 0, 1, 4])[0]).toEqual(["diameter", 8, 4]));
});
