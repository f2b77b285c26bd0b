import { describe, expect, it } from "vitest";
import { writing } from "./lengths";

describe("lengths", () => {
  it("are shown in inch with a decimal more", () => {
    const inch = writing("mm", "inch");
    expect([inch.fixed(25.4), inch.signed(-0.0508, 3), inch.fixed(null), inch.sign]).toEqual([
      "1.0000",
      "−0.0020",
      "–",
      "in",
    ]);
  });

  it("stay in mm where nothing else is asked, and angles stay angles", () => {
    expect(writing("mm", undefined).fixed(25.4, 2)).toBe("25.40");
    expect([writing("°", "inch").fixed(30, 1), writing("°", "inch").sign]).toEqual(["30.0", "°"]);
  });
});
