import { describe, expect, it } from "vitest";
import { pastedPoints } from "./paste";

describe("pasted reference points", () => {
  it("are read from a spreadsheet with a head, names and decimal commas", () =>
    expect(pastedPoints("name\tx\ty\tz\ti\tj\tk\nL1\t1,5\t2\t0\t0\t0\t-2\nL2\t4\t5\t0\t0\t0\t1\t3\n")).toEqual({
      points: [
        { name: "L1", point: [1.5, 2, 0], direction: [0, 0, -1], weight: 1, offset: 0 },
        { name: "L2", point: [4, 5, 0], direction: [0, 0, 1], weight: 3, offset: 0 },
      ],
    }));

  it("need no names, and may be parted by spaces or commas", () =>
    expect(pastedPoints("1 2 3 0 1 0\n\n4,5,6,1,0,0")).toEqual({
      points: [
        { name: "P1", point: [1, 2, 3], direction: [0, 1, 0], weight: 1, offset: 0 },
        { name: "P2", point: [4, 5, 6], direction: [1, 0, 0], weight: 1, offset: 0 },
      ],
    }));

  it.each([
    ["L1\t1\t2\t3", "Line 1"],
    ["1 2 3 0 0 1\n1 2 x 0 0 1", "Line 2"],
    ["1 2 3 0 0 0", "no length"],
    ["1 2 3 0 0 1 0", "above 0"],
    ["", "no line"],
  ])("say what is wrong with %j", (text, fault) =>
    expect(pastedPoints(text)).toEqual({ fault: expect.stringContaining(fault) as string }),
  );
});
