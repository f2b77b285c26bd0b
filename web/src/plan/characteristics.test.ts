import { describe, expect, it } from "vitest";
import { changed, facesOf } from "./characteristics";

describe("characteristics", () => {
  it("refer to faces by themselves or through features", () => {
    const features = [
      { id: "a", faces: [3, 4] },
      { id: "b", faces: [7] },
    ];
    expect(facesOf({ kind: "width", no: 1, name: "", features: ["b", "a"] }, features)).toEqual([7, 3, 4]);
    expect(facesOf({ kind: "profile-of-a-surface", no: 1, name: "", faces: [9] }, features)).toEqual([9]);
    expect(facesOf({ kind: "diameter", no: 1, name: "", features: ["gone"] }, features)).toEqual([]);
  });

  it("keep their kind when a field changes", () =>
    expect(changed({ kind: "flatness", no: 1, name: "a" }, { tolerance: 0.1 })).toEqual({
      kind: "flatness",
      no: 1,
      name: "a",
      tolerance: 0.1,
    }));
});
