import { describe, expect, it } from "vitest";
import { canBeNominal, guessPart, guessRole, guessSerial } from "./receiving";

describe("filing what was dropped", () => {
  it("takes CAD for a nominal and meshes for scans", () => {
    expect(guessRole("bracket.STEP")).toBe("nominal");
    expect(guessRole("bracket.stl")).toBe("scan");
    expect(canBeNominal("points.xyz")).toBe(false);
  });

  it("reads part and serial number from the name", () => {
    const parts = [{ number: "LB-045" }, { number: "VH-310" }];
    expect(guessPart("vh-310-0009.stl", parts)?.number).toBe("VH-310");
    expect(guessSerial("vh-310-0009.stl", "VH-310")).toBe("0009");
    expect(guessSerial("loose.stl", "VH-310")).toBe("loose");
  });
});
