import { expect, it } from "vitest";
import { spread } from "./spread";

it("lays labels out so that no two cover each other", () => {
  const anchors = Array.from({ length: 12 }, (_, i) => ({ x: 100 + 5 * (i % 4), y: 100 + 3 * i }));
  const boxes = spread(anchors, 78, 22);
  for (let i = 0; i < boxes.length; i++) {
    for (let j = 0; j < i; j++) {
      const apart = Math.abs(boxes[i].x - boxes[j].x) >= 78 || Math.abs(boxes[i].y - boxes[j].y) >= 22;
      expect(apart, `labels ${j} and ${i}`).toBe(true);
    }
  }
});
