import { describe, expect, it } from "vitest";
import type { Asked, CharacteristicPlan, CharacteristicResult } from "../api/client";
import { characteristicTable, rowsOf, rowsWith, sorted, verdictOf } from "./rows";

const plan = (no: number, tolerance = 0.1): CharacteristicPlan => ({ kind: "flatness", no, name: `f${no}`, tolerance });
const of = (...characteristics: CharacteristicPlan[]) => ({
  plan: { characteristics },
  asked: characteristics.map((c) => ({ no: c.no }) as Asked),
});
const result = (p: CharacteristicPlan, measured: number | null, verdict: CharacteristicResult["verdict"]) =>
  ({ plan: p, measured, verdict, upperLimit: 0.1, lowerLimit: null }) as CharacteristicResult;

describe("the ledger's rows", () => {
  it("are those of the plan, measured or not", () => {
    const rows = rowsOf(of(plan(2), plan(3)), [result(plan(1), 0, "conforming"), result(plan(3), 0.05, "conforming")]);
    expect(rows.map((r) => [r.plan.no, r.result?.measured ?? null])).toEqual([
      [2, null],
      [3, 0.05],
    ]);
    expect(verdictOf(rows[0])).toBe("not-measured");
  });

  it("have no verdict once what is asked has changed", () => {
    const [row] = rowsOf(of(plan(1, 0.2)), [result(plan(1, 0.1), 0.15, "non-conforming")]);
    expect(row.changed).toBe(true);
    expect(verdictOf(row)).toBe("not-measured");
  });

  it("keep their verdict under another name", () => {
    const [row] = rowsOf(of({ ...plan(1), name: "renamed" }), [result(plan(1), 0.05, "conforming")]);
    expect(verdictOf(row)).toBe("conforming");
    expect(row.plan.name).toBe("renamed");
  });

  it("sort by verdict with the gravest first, and by the share of the tolerance used", () => {
    const plans = [plan(1), plan(2), plan(3)];
    const rows = rowsOf(of(...plans), [
      result(plans[0], 0.02, "conforming"),
      result(plans[1], 0.3, "non-conforming"),
      result(plans[2], 0.09, "not-proven"),
    ]);
    expect(sorted(rows, "verdict").map((r) => r.plan.no)).toEqual([2, 3, 1]);
    expect(sorted(rows, "deviation").map((r) => r.plan.no)).toEqual([2, 3, 1]);
    expect(sorted(rows, "name").map((r) => r.plan.no)).toEqual([1, 2, 3]);
  });

  it("are found by words of their name, kind and datums, and leave as a table with all digits", () => {
    const position: CharacteristicPlan = {
      kind: "position",
      no: 4,
      name: "hole",
      features: ["h"],
      datums: ["A", "B"],
      tolerance: 0.2,
    };
    const asked = { unit: "mm", limits: { nominal: null, lower: null, upper: 0.1 } } as Asked;
    const rows = rowsOf({ plan: { characteristics: [plan(1), position] }, asked: [asked, asked] } as never, [
      { ...result(plan(1), 0.0123456789012345, "conforming"), uncertainty: 0.002, beyond: 0, remark: "=odd" },
    ]);
    expect(rowsWith(rows, "A|B posi").map((r) => r.plan.no)).toEqual([4]);
    expect(rowsWith(rows, "flat").map((r) => r.plan.no)).toEqual([1]);
    expect(rowsWith(rows, "").length).toBe(2);
    const [names, first, second] = characteristicTable(rows);
    expect(first[names.indexOf("measured")]).toBe(0.0123456789012345);
    expect(first[names.indexOf("verdict")]).toBe("conforming");
    expect(second[names.indexOf("datums")]).toBe("A|B");
    expect(second[names.indexOf("measured")]).toBe("");
  });
});
