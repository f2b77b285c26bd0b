import { create } from "zustand";
import type { PrepareStep, SelectionTerm } from "../api/client";

export type Tool = "lasso" | "box" | "brush" | "grow" | "surface" | "piece" | "side";

/** What a selection comes to on the scan on the stage. */
export interface Selected {
  count: number;
  of: number;
  area: number;
  mask: Uint8Array;
}

/** What is being done on the Prepare station: shared by stage and worksheet, never stored. */
interface Preparing {
  tool: Tool | null;
  op: "add" | "take";
  through: boolean;
  /** Brush radius, mm. */
  radius: number;
  /** Largest turn from triangle to triangle, degrees. */
  angle: number;
  terms: SelectionTerm[];
  selected: Selected | null;
  /** The step being made or changed, and its place in the plan when it is there already. */
  draft: PrepareStep | null;
  place: number | null;
  /** The stage shows the draft's outcome. */
  trying: boolean;
  set: (change: Partial<Preparing>) => void;
  clear: () => void;
}

const nothing = { terms: [], selected: null, draft: null, place: null, trying: false };

export const usePreparing = create<Preparing>((set) => ({
  tool: null,
  op: "add",
  through: false,
  radius: 3,
  angle: 8,
  ...nothing,
  set: (change) => set(change),
  clear: () => set({ ...nothing, tool: null }),
}));

/** The steps whose outcome the stage shows: those before the one being changed, and that one too while it is tried. */
export function stepsShown(
  plan: readonly PrepareStep[],
  { draft, place, trying }: Pick<Preparing, "draft" | "place" | "trying">,
): PrepareStep[] {
  const base = place === null ? [...plan] : plan.slice(0, place);
  return draft && trying ? (draft.kind === "mesh" ? [draft, ...base] : [...base, draft]) : base;
}

/** Whether bit i of a mask is set. */
export const bit = (mask: Uint8Array, i: number) => ((mask[i >> 3] >> (i & 7)) & 1) === 1;
