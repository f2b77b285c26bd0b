import { describe, expect, it } from "vitest";
import { planFeatures, usersOf } from "./features";

const plan = {
  features: [
    { id: "a", name: "Floor", faces: [1] },
    { id: "b", name: "Wall", faces: [2, 3] },
  ],
  constructions: [
    { kind: "axis-of-planes" as const, id: "l", name: "Edge", from: ["a", "b"] },
    { kind: "offset-plane" as const, id: "p", name: "Raised", from: ["a"], distance: 4 },
    { kind: "pierced-point" as const, id: "q", name: "Corner", from: ["l", "p"] },
  ],
  datums: [{ label: "A", features: ["p"] }],
  characteristics: [{ kind: "distance" as const, no: 3, name: "", features: ["q", "b"] }],
};

describe("features of a plan", () => {
  it("rest on the faces of what they are made from, each once", () =>
    expect(Object.fromEntries(planFeatures(plan).map((f) => [f.id, f.faces]))).toEqual({
      a: [1],
      b: [2, 3],
      l: [1, 2, 3],
      p: [1],
      q: [1, 2, 3],
    }));

  it("know who would miss them", () => {
    expect(usersOf("a", plan)).toEqual(["Edge", "Raised"]);
    expect(usersOf("p", plan)).toEqual(["Corner", "datum A"]);
    expect(usersOf("q", plan)).toEqual(["characteristic 3"]);
  });
});
