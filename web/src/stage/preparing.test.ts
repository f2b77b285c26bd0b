import { describe, expect, it } from "vitest";
import { dragAngle, drawingFor } from "./drawing";
import { bit, stepsShown } from "./preparing";
import type { StageView } from "./StageView";
import type { PrepareStep, SelectionTerm } from "../api/client";

const plan: PrepareStep[] = [{ kind: "keep-part" }, { kind: "fill", maxDiameter: 3 }, { kind: "smooth" }];

describe("which steps the stage shows", () => {
  const draft: PrepareStep = { kind: "clean" };

  it("is the whole plan when nothing is being made", () =>
    expect(stepsShown(plan, { draft: null, place: null, trying: false })).toEqual(plan));

  it("adds a new step only while it is tried", () => {
    expect(stepsShown(plan, { draft, place: null, trying: false })).toEqual(plan);
    expect(stepsShown(plan, { draft, place: null, trying: true })).toEqual([...plan, draft]);
  });

  it("stops before the step that is being changed", () => {
    expect(stepsShown(plan, { draft, place: 1, trying: false })).toEqual(plan.slice(0, 1));
    expect(stepsShown(plan, { draft, place: 1, trying: true })).toEqual([plan[0], draft]);
  });
});

it("reads the bits of a mask from the lowest", () => {
  const mask = Uint8Array.from([0b0000_0101, 0b1000_0000]);
  expect([...Array(16).keys()].filter((i) => bit(mask, i))).toEqual([0, 2, 15]);
});

describe("drawing", () => {
  // A view looking down on the plane z = 2 at half a millimetre a pixel.
  const view = {
    pick: (x: number, y: number) => (x < 0 ? null : { point: [x / 2, -y / 2, 2], normal: [0, 0, 1] }),
    sighting: {
      viewPlane: () => ({
        point: [0, 0, 2],
        normal: [0, 0, 1],
        right: [1, 0, 0],
        at: (x: number, y: number) => [x / 2, -y / 2],
      }),
    },
  } as unknown as StageView;
  const options = { op: "add" as const, through: false, radius: 4, angle: 8 };
  const draw = (tool: Parameters<typeof drawingFor>[0], path: [number, number][]) => {
    const done: SelectionTerm[] = [];
    const live: SelectionTerm[] = [];
    const drawing = drawingFor(tool, view, () => options, {
      done: (t) => done.push(t),
      live: (t) => live.push(t),
      outline: () => undefined,
    });
    drawing.start(...path[0]);
    path.slice(1).forEach((p) => drawing.move(...p));
    drawing.end();
    return { done, live };
  };

  it("makes a rectangle an outline in the plane of the view", () => {
    const { done } = draw("box", [[0, 0], [5, 5], [20, 10]]); // prettier-ignore
    expect(done).toHaveLength(1);
    expect(done[0]).toMatchObject({ kind: "lasso", frame: "scan", right: [1, 0, 0], normal: [0, 0, 1] });
    expect(done[0]).toHaveProperty("path", [0, -0, 10, -0, 10, -5, 0, -5]);
  });

  it("keeps a brush stroke's points on the surface and its radius", () => {
    const { done } = draw("brush", [[0, 0], [10, 0], [11, 0], [20, 0]]); // prettier-ignore
    expect(done[0]).toEqual({
      kind: "brush",
      frame: "scan",
      op: "add",
      radius: 4,
      path: [0, -0, 2, 5, -0, 2, 10, -0, 2],
    });
  });

  it("takes a plane from a surface, raised over its noise and facing away", () => {
    const { done } = draw("side", [[8, 4]]);
    expect(done[0]).toMatchObject({ kind: "side", point: [4, -2, 2.5], normal: [-0, -0, -1] });
  });

  it("grows with a drag to the right and shrinks to the left", () => {
    expect(dragAngle(8, 90)).toBeCloseTo(16);
    expect(dragAngle(8, -90)).toBeCloseTo(4);
    expect(dragAngle(8, 9000)).toBe(60);
    const { done, live } = draw("grow", [[10, 0], [100, 0]]); // prettier-ignore
    expect(live).toMatchObject([
      { kind: "grow", angleDegrees: 8 },
      { kind: "grow", angleDegrees: 16 },
    ]);
    expect(done).toMatchObject([{ kind: "grow", angleDegrees: 16 }]);
  });

  it("makes nothing of a click beside the part", () => expect(draw("surface", [[-1, 0]]).done).toEqual([]));
});
