import { describe, expect, it } from "vitest";
import { isComplete, newStep, stepNames, termWords, withStep } from "./stepKinds";

describe("steps", () => {
  it("are complete as they start, but for what must be selected", () => {
    const open = stepNames.filter((kind) => !isComplete(newStep(kind)));
    expect(open).toEqual(["drop", "refill"]);
    expect(isComplete({ kind: "drop", selection: [{ kind: "all" }] })).toBe(true);
  });

  it("need one of two numbers where either will do", () => {
    expect(isComplete({ kind: "drop-pieces" })).toBe(false);
    expect(isComplete({ kind: "drop-pieces", area: 3 })).toBe(true);
    expect(isComplete({ kind: "reduce", maxDeviation: 0.01 })).toBe(true);
    expect(isComplete({ kind: "mesh" })).toBe(true);
  });

  it("need all numbers that are not optional", () => {
    expect(isComplete({ kind: "smooth", passes: 3 })).toBe(false);
    expect(isComplete({ kind: "fill", maxDiameter: 0 })).toBe(false);
  });

  it("come last, but meshing a cloud first", () => {
    expect(withStep([{ kind: "fill" }], { kind: "clean" }).map((s) => s.kind)).toEqual(["fill", "clean"]);
    expect(withStep([{ kind: "fill" }], { kind: "mesh" }).map((s) => s.kind)).toEqual(["mesh", "fill"]);
  });
});

describe("selections in words", () => {
  it("say how they were made", () => {
    expect(termWords({ kind: "lasso", op: "add", through: true })).toBe("with an outline, through the part");
    expect(termWords({ kind: "beyond", op: "take", distance: 5 })).toBe("without what is over 5.0 mm from the nominal");
    expect(termWords({ kind: "widen", rows: 2 })).toBe("wider by 2 rows");
    expect(termWords({ kind: "pieces", area: 30 })).toBe("with pieces under 30 mm²");
  });
});
