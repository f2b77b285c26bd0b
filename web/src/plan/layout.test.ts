import { describe, expect, it } from "vitest";
import { movedTo, newBlock, withBlocks } from "./layout";

describe("a report's layout", () => {
  it("moves a part up and down without losing one", () => {
    expect(movedTo(["a", "b", "c"], 2, 0)).toEqual(["c", "a", "b"]);
    expect(movedTo(["a", "b", "c"], 0, 2)).toEqual(["b", "c", "a"]);
    expect(movedTo(["a", "b"], 1, 1)).toEqual(["a", "b"]);
  });

  it("keeps title and house when its parts change", () =>
    expect(withBlocks({ title: "T", house: "H" }, [newBlock("table")])).toEqual({
      title: "T",
      house: "H",
      blocks: [{ kind: "table" }],
    }));
});
