import { BufferAttribute, BufferGeometry } from "three";
import { describe, expect, it } from "vitest";
import { coarserLevels, Detail, Pace, thinnedLevels } from "./levels";

/** A flat square of n·n cells of 1 mm, two triangles each. */
function grid(n: number) {
  const positions = new Float32Array(3 * (n + 1) ** 2);
  for (let i = 0; i < positions.length / 3; i++) {
    positions.set([i % (n + 1), Math.floor(i / (n + 1)), 0], 3 * i);
  }

  const indices: number[] = [];
  for (let y = 0; y < n; y++) {
    for (let x = 0; x < n; x++) {
      const a = y * (n + 1) + x;
      indices.push(a, a + 1, a + n + 2, a, a + n + 2, a + n + 1);
    }
  }

  return { positions, indices: new Uint32Array(indices) };
}

describe("coarser levels", () => {
  it("get fewer step by step, keep to the vertices and still cover the surface", () => {
    const { positions, indices } = grid(200);
    const levels = coarserLevels(positions, indices, 200 * 200);
    const counts = [indices, ...levels].map((l) => l.length / 3);
    expect(levels.length).toBeGreaterThanOrEqual(2);
    counts.slice(1).forEach((c, i) => expect(c).toBeLessThan(counts[i]));
    expect(counts.at(-1)).toBeLessThanOrEqual(5000);
    for (const level of levels) {
      // Twice the signed area of what lies in the plane: nothing is folded over, all but a rim of a cell is covered.
      let doubled = 0;
      for (let i = 0; i < level.length; i += 3) {
        const [a, b, c] = [...level.subarray(i, i + 3)].map((v) => [positions[3 * v], positions[3 * v + 1]]);
        doubled += (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0]);
      }

      const cell = Math.sqrt((4 * 200 * 200) / (level.length / 3));
      expect(doubled / 2).toBeLessThanOrEqual(200 * 200);
      expect(doubled / 2).toBeGreaterThanOrEqual((200 - 2 * cell) ** 2);
    }
  });

  it("are not made of what is small already", () => {
    const { positions, indices } = grid(20);
    expect(coarserLevels(positions, indices, 400)).toEqual([]);
    expect(thinnedLevels(1000)).toEqual([]);
  });

  it("of a cloud take every third point, every ninth", () => {
    const [thirds, ninths] = thinnedLevels(90_000);
    expect([thirds.length, ninths.length]).toEqual([30_000, 10_000]);
    expect([...thirds.slice(0, 3), ...ninths.slice(0, 2)]).toEqual([0, 3, 6, 0, 9]);
  });
});

describe("what is drawn", () => {
  const level = (triangles: number) => new BufferAttribute(new Uint32Array(3 * triangles), 1);

  it("is the finest level that is drawn in time, and everything at rest", () => {
    const [geometry, full, middle, least] = [new BufferGeometry(), level(900), level(300), level(100)];
    const detail = new Detail(geometry, full, 900, [middle, least]);
    const drawn = (most: number | null) => (detail.use(most), geometry.index);
    expect([drawn(1000), drawn(899), drawn(150), drawn(10), drawn(null)]).toEqual([full, middle, least, least, full]);
  });

  it("is all of a small thing, and of a cloud all points while they are few enough", () => {
    const [geometry, full, some] = [new BufferGeometry(), level(30), level(10)];
    new Detail(geometry, full, 30, []).use(1);
    expect(geometry.index).toBe(full);
    const cloud = new Detail(geometry, null, 30, [some]);
    cloud.use(29);
    expect(geometry.index).toBe(some);
    cloud.use(30);
    expect(geometry.index).toBeNull();
  });

  it("follows the quickest of three timed pictures, the first not among them", () => {
    const pace = new Pace();
    expect([pace.begin(), pace.slow]).toEqual([false, false]);
    for (const ms of [300, 200, 250]) {
      expect(pace.begin()).toBe(true);
      pace.told(ms, 100_000);
    }

    expect(pace.most).toBeCloseTo((25 / 200) * 100_000);
    expect(pace.slow).toBe(true);

    // A picture of few triangles that takes long all the same asks for fewer still.
    for (let picture = 0; picture < 3; picture++) {
      expect(pace.begin()).toBe(true);
      pace.told(50, 12_500);
    }

    expect(pace.most).toBeCloseTo(6250);
  });

  it("of a machine that draws fast is not asked for again", () => {
    const pace = new Pace();
    pace.begin();
    for (let picture = 0; picture < 3; picture++) {
      expect(pace.begin()).toBe(true);
      pace.told(5, 100_000);
    }

    expect([pace.begin(), pace.slow]).toEqual([false, false]);
  });
});
