import { describe, expect, it } from "vitest";
import { back, moved, sameWay, lacks, methods, startOf, withMotion, type Method } from "./methods";

describe("ways of aligning", () => {
  it("begin with what is still to be chosen", () => {
    const open = (Object.keys(methods) as Method[]).filter((m) => lacks(startOf(m)) !== null);
    expect(open).toEqual(["faces", "datums", "axis-system", "reference-points", "point-pairs"]);
    expect(lacks({ method: "faces", faces: [3] })).toBeNull();
  });

  it("lock a motion with the pose whose value it keeps, and let go of both", () => {
    const pose = [1, 0, 0, 5, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1];
    const one = withMotion(startOf("all-surfaces"), "shift-x", true, pose);
    expect(one).toMatchObject({ locked: ["shift-x"], start: pose });
    // A second one keeps to the pose of the first, whatever was found since.
    const two = withMotion(one, "turn-z", true, []);
    expect(two).toMatchObject({ locked: ["shift-x", "turn-z"], start: pose });
    const none = withMotion(withMotion(two, "turn-z", false, []), "shift-x", false, []);
    expect(none).toMatchObject({ locked: [], start: null });
    expect(withMotion(startOf("datums"), "shift-x", true, pose)).toEqual(startOf("datums"));
  });

  it("take a place of the aligned scan back to the scan's own coordinates", () => {
    // A quarter turn about z and a shift.
    const t = [0, -1, 0, 5, 1, 0, 0, 6, 0, 0, 1, 7, 0, 0, 0, 1];
    // The point (1, 2, 3) goes to (-2 + 5, 1 + 6, 3 + 7).
    expect(back(t, [3, 7, 10])).toEqual([1, 2, 3]);
  });

  it("begin by hand where the part is", () => {
    expect(startOf("as-given", [1, 2])).toEqual({ method: "as-given", start: [1, 2] });
    expect(startOf("datums", [1, 2])).toEqual(startOf("datums"));
  });

  it("change places in their order, and no further than its ends", () => {
    expect(moved(["A", "B", "C"], "C", 0)).toEqual(["C", "A", "B"]);
    expect(moved(["A", "B", "C"], "A", 1)).toEqual(["B", "A", "C"]);
    expect(moved(["A", "B"], "A", -1)).toEqual(["A", "B"]);
    expect(moved(["A", "B"], "X", 1)).toEqual(["A", "B"]);
  });

  it("ask the same when only what is empty differs", () => {
    expect(sameWay(startOf("all-surfaces"), { method: "all-surfaces" })).toBe(true);
    expect(sameWay({ method: "datums", datums: ["A", "B"] }, { method: "datums", datums: ["B", "A"] })).toBe(false);
  });
});
