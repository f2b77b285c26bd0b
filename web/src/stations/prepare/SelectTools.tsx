import { Box, Brush, CircleDashed, Lasso, Layers, Minus, Plus, Square, Sprout, UnfoldHorizontal } from "lucide-react";
import type { PrepareStep, SelectionTerm } from "../../api/client";
import { usePreparing, type Tool } from "../../stage/preparing";
import { count, fixed } from "../../ui/format";
import { Button, Field, Input, Named } from "../../ui/parts";
import { Block } from "../../ui/Worksheet";
import { kindOf, termWords, type StepName } from "./stepKinds";

const tools: { tool: Tool; name: string; icon: typeof Lasso }[] = [
  { tool: "lasso", name: "Outline", icon: Lasso },
  { tool: "box", name: "Rectangle", icon: Square },
  { tool: "brush", name: "Brush", icon: Brush },
  { tool: "grow", name: "Grow", icon: Sprout },
  { tool: "surface", name: "Surface", icon: CircleDashed },
  { tool: "piece", name: "Piece", icon: Box },
  { tool: "side", name: "Beyond a plane", icon: UnfoldHorizontal },
];

/** Selecting on the stage and by rule, and what may be done with the selection. */
export function SelectTools({ onUse }: { onUse: (kind: StepName) => void }) {
  const { tool, op, through, radius, angle, terms, selected, draft, place, trying, set } = usePreparing();
  const add = (term: SelectionTerm) => set({ terms: [...terms, term] });
  return (
    <Block title="Select">
      <div className="grid grid-cols-7 gap-1" role="toolbar" aria-label="Selection tools">
        {tools.map(({ tool: t, name, icon: Icon }) => (
          <Named key={t} name={name}>
            <button
              type="button"
              aria-label={name}
              aria-pressed={tool === t}
              className="flex h-8 items-center justify-center rounded border border-line hover:bg-tint aria-pressed:border-brass aria-pressed:bg-brass/15"
              onClick={() => set({ tool: tool === t ? null : t, trying: false })}
            >
              <Icon size={16} />
            </button>
          </Named>
        ))}
      </div>
      <div className="mt-2 flex flex-wrap items-center gap-1 text-xs">
        <Toggle on={op === "add"} onClick={() => set({ op: "add" })}>
          <Plus size={12} /> add
        </Toggle>
        <Toggle on={op === "take"} onClick={() => set({ op: "take" })}>
          <Minus size={12} /> take away
        </Toggle>
        <Toggle on={through} onClick={() => set({ through: !through })}>
          <Layers size={12} /> through the part
        </Toggle>
      </div>
      {tool === "brush" && (
        <Field label="Brush radius, mm">
          <Input
            type="number"
            min={0.1}
            step={0.5}
            value={radius}
            onChange={(e) => set({ radius: Number(e.target.value) || 1 })}
          />
        </Field>
      )}
      {tool === "grow" && (
        <Field label="Turns by up to, degrees">
          <Input
            type="number"
            min={0.5}
            max={60}
            step={0.5}
            value={angle}
            onChange={(e) => set({ angle: Number(e.target.value) || 1 })}
          />
        </Field>
      )}
      <RuleTerm onAdd={add} />
      {terms.length > 0 && (
        <div className="mt-2 rounded border border-brass/60 p-2 text-xs" data-testid="selection">
          <p className="num font-semibold">
            {selected
              ? `${count(selected.count)} of ${count(selected.of)} selected, ${fixed(selected.area, 1)} mm²`
              : "selecting …"}
          </p>
          <p className="text-soft">{terms.map(termWords).join(", ")}</p>
          <div className="mt-1 flex flex-wrap gap-1">
            <Small onClick={() => add({ kind: "invert" })}>Invert</Small>
            <Small onClick={() => add({ kind: "widen", rows: 2 })}>Widen</Small>
            <Small onClick={() => add({ kind: "narrow", rows: 2 })}>Narrow</Small>
            <Small onClick={() => set({ terms: terms.slice(0, -1) })}>Back</Small>
            <Small onClick={() => set({ terms: [] })}>None</Small>
          </div>
          {(!draft || place === null) && !trying && (
            <div className="mt-2 flex gap-1">
              <Button className="h-7 flex-1 px-2" onClick={() => onUse("drop")}>
                Drop
              </Button>
              <Button className="h-7 flex-1 px-2" onClick={() => onUse("refill")}>
                Refill
              </Button>
              <Button className="h-7 flex-1 px-2" onClick={() => onUse("smooth")}>
                Smooth
              </Button>
            </div>
          )}
        </div>
      )}
    </Block>
  );
}

/** Selections that need no pointing. */
function RuleTerm({ onAdd }: { onAdd: (term: SelectionTerm) => void }) {
  const rules: Record<string, (op: "add" | "take") => SelectionTerm> = {
    loose: (op) => ({ kind: "loose", op }),
    "far 2": (op) => ({ kind: "beyond", op, distance: 2 }),
    "far 5": (op) => ({ kind: "beyond", op, distance: 5 }),
    "small 100": (op) => ({ kind: "pieces", op, triangles: 100 }),
    "small 1000": (op) => ({ kind: "pieces", op, triangles: 1000 }),
    all: (op) => ({ kind: "all", op }),
  };
  const op = usePreparing((s) => s.op);
  return (
    <div className="mt-2">
      <select
        aria-label="Select by rule"
        className="h-7 w-full rounded border border-line bg-panel px-1 text-xs"
        value=""
        onChange={(e) => onAdd(rules[e.target.value](op))}
      >
        <option value="" disabled>
          by rule …
        </option>
        <option value="loose">all loose pieces</option>
        <option value="far 2">all that is further than 2 mm from the nominal</option>
        <option value="far 5">all that is further than 5 mm from the nominal</option>
        <option value="small 100">pieces under 100 triangles</option>
        <option value="small 1000">pieces under 1 000 triangles</option>
        <option value="all">everything</option>
      </select>
    </div>
  );
}

function Toggle({ on, onClick, children }: { on: boolean; onClick: () => void; children: React.ReactNode }) {
  return (
    <button
      type="button"
      aria-pressed={on}
      onClick={onClick}
      className="inline-flex h-6 items-center gap-1 rounded border border-line px-1.5 aria-pressed:border-indigo aria-pressed:bg-tint"
    >
      {children}
    </button>
  );
}

const Small = (props: { onClick: () => void; children: React.ReactNode }) => (
  <button type="button" {...props} className="rounded border border-line px-1.5 py-0.5 hover:bg-tint" />
);

/** A step of a kind with what is selected now. */
export const withSelection = (step: PrepareStep, terms: SelectionTerm[]): PrepareStep =>
  terms.length > 0 && kindOf(step.kind).selection ? ({ ...step, selection: terms } as PrepareStep) : step;
