import { describe, expect, it } from "vitest";
import { back, lacks, methods, startOf, type Method } from "./methods";

describe("ways of aligning", () => {
  it("begin with what is still to be chosen", () => {
    const open = (Object.keys(methods) as Method[]).filter((m) => lacks(startOf(m)) !== null);
    expect(open).toEqual(["faces", "datums", "reference-points", "point-pairs"]);
    expect(lacks({ method: "faces", faces: [3] })).toBeNull();
  });

  it("take a place of the aligned scan back to the scan's own coordinates", () => {
    // A quarter turn about z and a shift.
    const t = [0, -1, 0, 5, 1, 0, 0, 6, 0, 0, 1, 7, 0, 0, 0, 1];
    // The point (1, 2, 3) goes to (-2 + 5, 1 + 6, 3 + 7).
    expect(back(t, [3, 7, 10])).toEqual([1, 2, 3]);
  });
});
