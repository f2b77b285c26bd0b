import { create } from "zustand";
import { useShallow } from "zustand/react/shallow";
import type { Motion, Schemas } from "../api/client";
import type { SectionPlan, SectionSheet } from "../plan/sections";
import type { Evidence } from "./EvidenceLayer";
import type { PickHandler } from "./picking";
import type { Hit } from "./Picker";
import type { Ramp } from "./ramp";
import type { StageView } from "./StageView";

export type Station = "receive" | "prepare" | "align" | "features" | "compare" | "evaluate" | "issue";

export const stations: readonly { key: Station; name: string }[] = [
  { key: "receive", name: "Receive" },
  { key: "prepare", name: "Prepare" },
  { key: "align", name: "Align" },
  { key: "features", name: "Features" },
  { key: "compare", name: "Compare" },
  { key: "evaluate", name: "Evaluate" },
  { key: "issue", name: "Issue" },
];

export interface Limits {
  lower: number;
  upper: number;
}

/** Strokes and arcs by which the scan is moved. */
interface Handled {
  centre: readonly [number, number, number];
  /** A motion since it was taken hold of, mm or rad; done once it is let go. */
  onDrag: (motion: Motion, by: number, done: boolean) => void;
}

/** The section at work. */
export interface Cut {
  plan: SectionPlan;
  /** Null until it is cut. */
  sheet: SectionSheet | null;
  asSheet: boolean;
  /** The plane was moved by hand; done once it is let go. Null where nobody may move it. */
  onMove: ((to: SectionPlan, done: boolean) => void) | null;
  /** Places in space of the characteristics that lie in it. */
  marks: readonly { no: number; parts: readonly (readonly number[])[] }[];
  /** Lines and arcs of the sheet that are lit: 2·N coordinates each. */
  lit: readonly (readonly number[])[];
  /** A line or an arc was clicked, by its index; null: they are only shown. */
  onPick: ((part: number) => void) | null;
}

/** What the stage shows and what is picked: shared by stage, worksheet and ledger, never stored. */
interface Bench {
  view: StageView | null;
  hover: Hit | null;
  /** Values of the map on the stage, and the areas of the vertices it lies on. */
  values: Float32Array | null;
  areas: Float32Array | null;
  /** Of the deviation. */
  limits: Limits;
  /** Name of the plan's map that is looked at; null: the deviation. */
  map: string | null;
  /** Limits that a viewer gave that map. */
  mapLimits: Partial<Limits>;
  ramp: Ramp;
  /** Faces of the nominal to which a map is held; none: it shows the whole part. */
  onlyFaces: readonly number[];
  /** Clicks choose such faces. */
  picking: boolean;
  hideWithin: boolean;
  /** What lies within its limits lets see what is behind it. */
  seeThrough: boolean;
  showEdges: boolean;
  /** Hold to see the scan as it was received. */
  before: boolean;
  faces: number[];
  /** What clicks pick where features are made: faces of the nominal, or places of the scan. */
  pickOn: "nominal" | "scan";
  /** Picked features of the plan, in the order they were picked. */
  features: string[];
  measured: Schemas["MeasuredView"] | null;
  /** What the chosen characteristic or feature rests on. */
  evidence: Evidence | null;
  characteristic: number | null;
  pinning: boolean;
  /** Between which a distance is asked: none, one or two. */
  places: readonly Schemas["PickedPlace"][];
  /** Name of the plan's alignment at work on the Align station; null: its own. */
  alignment: string | null;
  /** Where the scan would lie, while another alignment is tried: scan to nominal, 16 numbers row-major. */
  trialPose: readonly number[] | null;
  /** How a hand may move the scan on the stage; null while it may not. */
  handles: Handled | null;
  section: Cut | null;
  /** Address of a page that covers the stage: the report as it would be issued. */
  page: string | null;
  /** What a click on the stage means: the last one has it. */
  picks: readonly PickHandler[];
  set: (change: Partial<Bench>) => void;
}

export const useBench = create<Bench>((set) => ({
  view: null,
  hover: null,
  values: null,
  areas: null,
  limits: { lower: -0.2, upper: 0.2 },
  map: null,
  mapLimits: {},
  ramp: { kind: "blue-rust", steps: null },
  onlyFaces: [],
  picking: false,
  hideWithin: false,
  seeThrough: false,
  showEdges: true,
  before: false,
  faces: [],
  pickOn: "nominal",
  features: [],
  measured: null,
  evidence: null,
  characteristic: null,
  pinning: false,
  places: [],
  alignment: null,
  trialPose: null,
  handles: null,
  section: null,
  page: null,
  picks: [],
  set: (change) => set(change),
}));

/** Some of the bench. What hovers changes with every movement of the hand: who does not ask for it is not drawn anew by it. */
export const useBenchOf = <K extends Exclude<keyof Bench, "hover">>(...keys: K[]): Pick<Bench, K> =>
  useBench(useShallow((s) => Object.fromEntries(keys.map((k) => [k, s[k]])) as Pick<Bench, K>));

/** Calls back with what hovers, at once and whenever it changes, beside React. */
export function onHover(show: (hover: Hit | null) => void): () => void {
  show(useBench.getState().hover);
  return useBench.subscribe((now, before) => now.hover !== before.hover && show(now.hover));
}
