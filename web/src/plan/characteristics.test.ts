import { describe, expect, it } from "vitest";
import { changed, decimals, facesOf, limitsOf } from "./characteristics";

describe("characteristics", () => {
  it("have limits from deviations", () => {
    expect(limitsOf({ kind: "diameter", no: 1, name: "", nominal: 52, lower: 0, upper: 0.25 })).toEqual({
      nominal: 52,
      lower: 52,
      upper: 52.25,
    });
    expect(limitsOf({ kind: "distance", no: 1, name: "", nominal: 12, upper: 0.5 }).lower).toBeNull();
    expect(limitsOf({ kind: "position", no: 1, name: "", tolerance: 0.2 })).toEqual({
      nominal: null,
      lower: null,
      upper: 0.2,
    });
  });

  it("refer to faces by themselves or through features", () => {
    const features = [
      { id: "a", faces: [3, 4] },
      { id: "b", faces: [7] },
    ];
    expect(facesOf({ kind: "width", no: 1, name: "", features: ["b", "a"] }, features)).toEqual([7, 3, 4]);
    expect(facesOf({ kind: "profile-of-a-surface", no: 1, name: "", faces: [9] }, features)).toEqual([9]);
    expect(facesOf({ kind: "diameter", no: 1, name: "", features: ["gone"] }, features)).toEqual([]);
  });

  it("are shown with the decimals their tolerance calls for", () => {
    expect(decimals({ kind: "flatness", no: 1, name: "", tolerance: 0.05 })).toBe(3);
    expect(decimals({ kind: "flatness", no: 1, name: "", tolerance: 0.005 })).toBe(4);
    expect(decimals({ kind: "diameter", no: 1, name: "", lower: -0.3, upper: 0.3 })).toBe(3);
    expect(decimals({ kind: "angle", no: 1, name: "", lower: -1, upper: 1 })).toBe(3);
  });

  it("keep their kind when a field changes", () =>
    expect(changed({ kind: "flatness", no: 1, name: "a" }, { tolerance: 0.1 })).toEqual({
      kind: "flatness",
      no: 1,
      name: "a",
      tolerance: 0.1,
    }));
});
