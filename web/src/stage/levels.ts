import type { BufferAttribute, BufferGeometry } from "three";

/** Each level has about so many times fewer triangles than the one before, down to what every machine draws at once. */
const STEP = 3;
const LEAST = 5000;

/** As a mesh has about twice as many triangles as vertices, one vertex is left for the surface of two of them. */
const TRIANGLES_A_VERTEX = 2;

/**
 * ms that drawing may take while something moves. A processor that draws needs about as long again to put the page together: more than
 * 20 pictures a second come of it.
 */
const FRAME = 25;

/** A machine that draws fewer triangles than this in time draws on its processor: there the points of the picture count, too. */
const SLOW = 60_000;

/** Triangles that are tried while the pace is not known. */
const UNKNOWN = 100_000;

/** Cells either way from the middle along an axis: as many as a key holds. */
const HALF = 0x8000;

/** So many pictures tell the pace of the machine: one alone may have been disturbed. */
const TIMED = 3;

/**
 * Fewer and fewer triangles over the same vertices, for showing what moves; not for measuring. Vertex clustering
 * (Rossignac and Borrel 1993): the vertices in one cell of a grid become the first of them.
 *
 * @param area of the surface, mm²
 */
export function coarserLevels(positions: Float32Array, finest: Uint32Array, area: number): Uint32Array[] {
  const levels: Uint32Array[] = [];
  let last = finest;
  while (last.length / 3 > LEAST) {
    const next = clustered(positions, last, Math.sqrt((TRIANGLES_A_VERTEX * area * STEP * 3) / last.length));
    if (next.length === 0 || next.length >= last.length) {
      break;
    }

    levels.push(next);
    last = next;
  }

  return levels;
}

/** Every third point of a cloud, every ninth, …: points of scans come in no order that this would show. */
export function thinnedLevels(points: number): Uint32Array[] {
  const levels: Uint32Array[] = [];
  for (let stride = STEP; points / stride > LEAST / STEP; stride *= STEP) {
    levels.push(Uint32Array.from({ length: Math.floor(points / stride) }, (_, i) => i * stride));
  }

  return levels;
}

function clustered(positions: Float32Array, indices: Uint32Array, cell: number): Uint32Array {
  const cells = new Map<number, number>();
  const representative = new Int32Array(positions.length / 3).fill(-1);
  const along = (v: number, axis: number) => Math.floor(positions[3 * v + axis] / cell) + HALF;
  const of = (v: number): number => {
    if (representative[v] < 0) {
      const key = (along(v, 0) * 2 * HALF + along(v, 1)) * 2 * HALF + along(v, 2);
      const first = cells.get(key) ?? v;
      cells.set(key, first);
      representative[v] = first;
    }

    return representative[v];
  };
  const kept: number[] = [];
  for (let i = 0; i < indices.length; i += 3) {
    const [a, b, c] = [of(indices[i]), of(indices[i + 1]), of(indices[i + 2])];
    if (a !== b && b !== c && c !== a) {
      kept.push(a, b, c);
    }
  }

  return new Uint32Array(kept);
}

/** Full detail at rest; while something moves, the finest level of those given that the machine draws in time. */
export class Detail {
  /**
   * @param size triangles of the full detail, or a third of the points of a cloud
   * @param full null for a cloud, whose points are drawn without indices
   */
  constructor(
    private readonly geometry: BufferGeometry,
    private readonly full: BufferAttribute | null,
    private readonly size: number,
    private readonly levels: readonly BufferAttribute[],
  ) {}

  /** @param most triangles to draw; null for all of them. */
  use(most: number | null) {
    const index = most === null || this.size <= most ? this.full : this.level(most);
    if (this.geometry.index !== index) {
      this.geometry.setIndex(index);
    }
  }

  private level(most: number): BufferAttribute | null {
    return this.levels.find((l) => l.count <= 3 * most) ?? this.levels.at(-1) ?? this.full;
  }
}

/**
 * How fast this machine draws: the quickest of the last pictures that were timed. A slow one is timed on and on: what a picture takes does
 * not only depend on its triangles.
 */
export class Pace {
  private times: number[] = [];
  private begun = false;

  /** Whether the next picture is to be timed; not the very first, with which buffers go to the card. */
  begin(): boolean {
    const wanted = this.begun && (this.times.length < TIMED || this.slow);
    this.begun = true;
    return wanted;
  }

  /** @param ms for a picture of so many triangles */
  told(ms: number, triangles: number) {
    this.times = [...this.times, ms / Math.max(1, triangles)].slice(-TIMED);
  }

  /** Whether a picture with fewer points is needed while something moves. */
  get slow(): boolean {
    return this.most < SLOW;
  }

  /** Triangles in a picture that is drawn in time; until it is known, as many as a plain card draws. */
  get most(): number {
    return this.times.length === 0 ? UNKNOWN : FRAME / Math.min(...this.times);
  }
}
