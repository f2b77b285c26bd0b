import type { AlignPlan, Motion } from "../../api/client";

export type Method = AlignPlan["method"];
export type MethodPlan<M extends Method> = Extract<AlignPlan, { method: M }>;

/** A change of a way of aligning, to whatever it is by then. */
export type To = (to: (align: AlignPlan) => AlignPlan) => void;

const identity = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1];
const fit = { weights: [], locked: [], balance: false, start: null, prefer: null };

/** Every way of aligning as it begins; the compiler finds one that is missing. */
export const methods: { readonly [M in Method]: { name: string; about: string; start: MethodPlan<M> } } = {
  "all-surfaces": {
    name: "Fit to all surfaces",
    about: "Least squares over everything that was measured.",
    start: { method: "all-surfaces", ...fit },
  },
  faces: {
    name: "Fit to chosen faces",
    about: "Least squares over the chosen faces alone.",
    start: { method: "faces", faces: [], ...fit },
  },
  datums: {
    name: "Set from datums",
    about: "Each datum takes, in its order, the motions that it holds; what stays free is as fitted.",
    start: { method: "datums", datums: [], start: null, prefer: null },
  },
  "axis-system": {
    name: "Set by an axis system",
    about: "Two features give the directions, up to three the origin; each lies where the nominal has it.",
    start: { method: "axis-system", first: "", second: "", origin: [], start: null, prefer: null },
  },
  "reference-points": {
    name: "Set from reference points",
    about: "Places of the nominal, each met along its own direction: three, two and one of them hold all six motions.",
    start: { method: "reference-points", points: [], searchDistance: 5, start: null, prefer: null },
  },
  "point-pairs": {
    name: "Set from point pairs",
    about: "Places of the scan and the places of the nominal they belong to; three pairs and more.",
    start: { method: "point-pairs", pairs: [] },
  },
  "as-given": {
    name: "By hand, or a transform as it is",
    about: "A pose moved by hand or loaded from a file, used without any fit.",
    start: { method: "as-given", start: identity },
  },
};

/** The six motions of a part. */
export const motions: readonly Motion[] = ["shift-x", "shift-y", "shift-z", "turn-x", "turn-y", "turn-z"];

/**
 * A way of aligning as it begins, without its own type.
 * @param pose Where the part is now: a pose that is moved by hand begins there.
 */
export const startOf = (method: Method, pose: readonly number[] | null = null): AlignPlan =>
  method === "as-given" && pose ? { method, start: [...pose] } : methods[method].start;

/** What keeps a way from being carried out yet; null when nothing. */
export function lacks(align: AlignPlan): string | null {
  switch (align.method) {
    case "faces":
      return align.faces?.length ? null : "Choose the faces on the stage.";
    case "datums":
      return align.datums?.length ? null : "Choose at least one datum.";
    case "axis-system":
      return align.first && align.second && align.origin?.length
        ? null
        : "Choose a feature for each axis, and one for the origin.";
    case "reference-points":
      return (align.points?.length ?? 0) >= 6
        ? null
        : "Pick six places and more on the nominal: three, two and one hold it.";
    case "point-pairs":
      return (align.pairs?.length ?? 0) >= 3 ? null : "Pick three pairs and more.";
    case "all-surfaces":
    case "as-given":
      return null;
  }
}

/** A fit with a motion locked or free. What is locked keeps its value of a start, so the first one brings the pose along. */
export function withMotion(align: AlignPlan, motion: Motion, lock: boolean, pose: readonly number[]): AlignPlan {
  if (align.method !== "all-surfaces" && align.method !== "faces") {
    return align;
  }

  const others = (align.locked ?? []).filter((m) => m !== motion);
  const locked = lock ? [...others, motion] : others;
  return { ...align, locked, start: locked.length > 0 ? (align.start ?? [...pose]) : null };
}

/** A point moved back through a rigid transform, 16 numbers row-major. */
export function back(t: readonly number[], p: readonly number[]): number[] {
  const d = [p[0] - t[3], p[1] - t[7], p[2] - t[11]];
  return [0, 1, 2].map((c) => t[c] * d[0] + t[4 + c] * d[1] + t[8 + c] * d[2]);
}

/** Whether two ways ask the same: what is empty counts as not said. */
export const sameWay = (a: AlignPlan, b: AlignPlan): boolean => said(a) === said(b);

const said = (align: AlignPlan): string =>
  JSON.stringify(
    Object.entries(align)
      .filter(([, v]) => v !== null && v !== false && !(Array.isArray(v) && v.length === 0))
      .sort(([x], [y]) => (x < y ? -1 : 1)),
  );

/** The middle of the faces' centres: near enough to the part's to turn it about. */
export function middleOf(faces: readonly { center: readonly number[] }[]): [number, number, number] {
  const sum = faces.reduce((s, { center: c }) => s.map((v, k) => v + c[k]), [0, 0, 0]);
  return sum.map((v) => v / Math.max(1, faces.length)) as [number, number, number];
}

/** A list with one of its members at another place; a place off its ends changes nothing. */
export function moved(of: readonly string[], what: string, to: number): string[] {
  if (!of.includes(what) || to < 0 || to >= of.length) {
    return [...of];
  }

  const rest = of.filter((x) => x !== what);
  return [...rest.slice(0, to), what, ...rest.slice(to)];
}
