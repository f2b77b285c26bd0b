import { describe, expect, it } from "vitest";
import type { InspectionPlan } from "../../api/client";
import { nextLetter } from "./Datums";
import { usersOf } from "../../plan/features";

describe("datums and features", () => {
  it("take the next free letter, without those easily mistaken", () => {
    expect(nextLetter([])).toBe("A");
    expect(nextLetter(["A", "C"])).toBe("B");
    expect(nextLetter([..."ABCDEFGH"])).toBe("J");
  });

  it("are not removed while something stands on them", () => {
    const plan: InspectionPlan = {
      datums: [{ label: "A", features: ["top"] }],
      characteristics: [
        { kind: "flatness", no: 4, name: "", features: ["top"] },
        { kind: "profile-of-a-surface", no: 5, name: "", faces: [1] },
      ],
    };
    expect(usersOf("top", plan)).toEqual(["datum A", "characteristic 4"]);
    expect(usersOf("bottom", plan)).toEqual([]);
  });
});
