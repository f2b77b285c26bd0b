import { describe, expect, it } from "vitest";
import { spread, type Place } from "./spread";

const room = { left: 0, right: 760, height: 480, part: { left: 200, right: 600 } };
const size = [90, 22] as const;
const covers = (a: Place, b: Place) => Math.abs(a.x - b.x) < size[0] && Math.abs(a.y - b.y) < size[1];

describe("labels beside the part", () => {
  // Twenty places crowded in the middle: ten on either side of it.
  const crowd = Array.from({ length: 20 }, (_, i) => ({ x: 395 + i / 2, y: 240 + (i % 4) }));

  it("cover neither each other nor the part", () => {
    const boxes = spread(crowd, ...size, room);
    boxes.forEach((a, i) => boxes.slice(i + 1).forEach((b) => expect(covers(a, b)).toBe(false)));
    boxes.forEach((b) => expect(b.x + size[0] < 200 || b.x > 600).toBe(true));
  });

  it("stay in the picture, also for places at its edges", () => {
    const edges = [0, 2, 478, 480].map((y) => ({ x: 500, y }));
    const boxes = spread(edges, ...size, { ...room, part: { left: 10, right: 750 } });
    boxes.forEach((b) => {
      expect(b.y).toBeGreaterThanOrEqual(0);
      expect(b.y + size[1]).toBeLessThanOrEqual(480);
      expect(b.x + size[0]).toBeLessThanOrEqual(760);
    });
  });

  it("keep the order of their places, so that lines do not cross", () => {
    const places = [300, 100, 200].map((y) => ({ x: 550, y }));
    const boxes = spread(places, ...size, room);
    expect([...boxes.keys()].sort((a, b) => boxes[a].y - boxes[b].y)).toEqual([1, 2, 0]);
  });
});
