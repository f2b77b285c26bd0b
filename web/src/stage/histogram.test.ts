import { describe, expect, it } from "vitest";
import { histogram, spanOf, within } from "./histogram";

const values = new Float32Array([-0.5, 0, 0.25, NaN, 0.5]);
const areas = new Float32Array([1, 2, 3, 100, 4]);

describe("deviation statistics on the page", () => {
  it("weighs by area and leaves no data out", () => {
    const h = histogram(values, areas, -1, 1, 4);
    expect(h.bins).toEqual([0, 1, 5, 4]);
    expect(h.area).toBe(10);
    expect(within(values, areas, -0.25, 0.25)).toBeCloseTo(0.5);
  });

  it("leaves out where nothing was asked", () =>
    expect(within(new Float32Array([0, 0.4, Infinity]), null, -0.1, 0.1)).toBeCloseTo(0.5));

  it("knows from where to where the values lie", () => {
    expect(spanOf(values)).toEqual([-0.5, 0.5]);
    expect(spanOf(new Float32Array([NaN]))).toBeNull();
  });

  it("counts points where there are no areas", () => expect(within(values, null, 0, 0.5)).toBeCloseTo(0.75));
});
