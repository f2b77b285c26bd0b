export interface Place {
  x: number;
  y: number;
}

/** The picture in which labels stand, px: what of its width is free, and from where to where the part reaches. */
export interface Room {
  left: number;
  right: number;
  height: number;
  part: { left: number; right: number };
}

const [GAP, AWAY, MARGIN] = [4, 14, 8];

/**
 * Lays labels out beside the part: those of its left half in a column at its left, the others at its right, each column
 * in the order of the places from the top. So none covers another, and none the part where there is room beside it. The
 * same as in the report (LabelLayout).
 */
export function spread(anchors: readonly Place[], width: number, height: number, room: Room): Place[] {
  const placed: Place[] = [];
  const middle = (room.part.left + room.part.right) / 2;
  const column = (belongs: (a: Place) => boolean, x: number) => {
    const order = anchors
      .map((_, i) => i)
      .filter((i) => belongs(anchors[i]))
      .sort((a, b) => anchors[a].y - anchors[b].y || a - b);
    const step = height + GAP;
    const last = room.height - MARGIN - height;
    order.forEach((i, k) => {
      // No higher than those above leave room, no lower than those below need.
      const least = k === 0 ? MARGIN : placed[order[k - 1]].y + step;
      const most = last - (order.length - 1 - k) * step;
      placed[i] = { x, y: Math.max(least, Math.min(anchors[i].y - height / 2, most)) };
    });
  };
  column((a) => a.x < middle, Math.max(room.left + MARGIN, room.part.left - AWAY - width));
  column((a) => a.x >= middle, Math.min(room.right - MARGIN - width, room.part.right + AWAY));
  return placed;
}
