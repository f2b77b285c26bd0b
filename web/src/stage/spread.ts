export interface Place {
  x: number;
  y: number;
}

/** Places a box up and to the right of each anchor, pushed down until it covers no other. */
export function spread(anchors: readonly Place[], width: number, height: number): Place[] {
  const order = anchors.map((_, i) => i).sort((a, b) => anchors[a].y - anchors[b].y || a - b);
  const placed: Place[] = [];
  const result: Place[] = [];
  for (const i of order) {
    const box = { x: anchors[i].x + 34, y: anchors[i].y - 44 };
    for (let tries = 0; tries < anchors.length; tries++) {
      const other = placed.find((p) => Math.abs(p.x - box.x) < width && Math.abs(p.y - box.y) < height + 4);
      if (!other) {
        break;
      }

      box.y = other.y + height + 4;
    }

    placed.push(box);
    result[i] = box;
  }

  return result;
}
