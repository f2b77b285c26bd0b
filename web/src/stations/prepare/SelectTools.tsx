import { Box, Brush, CircleDashed, Lasso, Layers, Minus, Plus, Square, Sprout, UnfoldHorizontal } from "lucide-react";
import { Toggle, ToggleGroup } from "radix-ui";
import type { PrepareStep, SelectionTerm } from "../../api/client";
import { usePreparing, type Tool } from "../../stage/preparing";
import { count, fixed } from "../../ui/format";
import { Button, Field, Input, Named } from "../../ui/parts";
import { Block } from "../../ui/Worksheet";
import { kindOf, termWords, type StepName } from "./stepKinds";
import { Menu } from "../../ui/Choice";

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
      <ToggleGroup.Root
        type="single"
        className="grid grid-cols-7 gap-1"
        aria-label="Selection tools"
        value={tool ?? ""}
        onValueChange={(t) => set({ tool: t === "" ? null : (t as Tool), trying: false })}
      >
        {tools.map(({ tool: t, name, icon: Icon }) => (
          <Named key={t} name={name}>
            <ToggleGroup.Item value={t} aria-label={name} className={toolButton}>
              <Icon size={16} />
            </ToggleGroup.Item>
          </Named>
        ))}
      </ToggleGroup.Root>
      <div className="mt-2 flex flex-wrap items-center gap-1 text-xs">
        <ToggleGroup.Root
          type="single"
          className="flex gap-1"
          aria-label="What a selection does"
          value={op}
          onValueChange={(o) => o !== "" && set({ op: o as "add" | "take" })}
        >
          <ToggleGroup.Item value="add" className={small}>
            <Plus size={12} /> add
          </ToggleGroup.Item>
          <ToggleGroup.Item value="take" className={small}>
            <Minus size={12} /> take away
          </ToggleGroup.Item>
        </ToggleGroup.Root>
        <Toggle.Root pressed={through} onPressedChange={(on) => set({ through: on })} className={small}>
          <Layers size={12} /> through the part
        </Toggle.Root>
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
              ? `${count(selected.count)} of ${count(selected.of)} selected${selected.area > 0 ? `, ${fixed(selected.area, 1)} mm²` : ""}`
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

const toolButton =
  "flex h-8 items-center justify-center rounded border border-line hover:bg-tint " +
  "aria-checked:border-brass aria-checked:bg-brass/15";

const small =
  "inline-flex h-6 items-center gap-1 rounded border border-line px-1.5 data-[state=on]:border-indigo data-[state=on]:bg-tint";

type Rule = (op: "add" | "take") => SelectionTerm;

/** Selections that need no pointing. */
const rules: { value: Rule; name: string }[] = [
  { value: (op) => ({ kind: "loose", op }), name: "all loose pieces" },
  { value: (op) => ({ kind: "beyond", op, distance: 2 }), name: "all that is further than 2 mm from the nominal" },
  { value: (op) => ({ kind: "beyond", op, distance: 5 }), name: "all that is further than 5 mm from the nominal" },
  { value: (op) => ({ kind: "pieces", op, triangles: 100 }), name: "pieces under 100 triangles" },
  { value: (op) => ({ kind: "pieces", op, triangles: 1000 }), name: "pieces under 1 000 triangles" },
  { value: (op) => ({ kind: "all", op }), name: "everything" },
];

function RuleTerm({ onAdd }: { onAdd: (term: SelectionTerm) => void }) {
  const op = usePreparing((s) => s.op);
  return (
    <Menu
      name="Select by rule"
      className="mt-2 w-full"
      groups={[{ options: rules }]}
      onPick={(rule) => onAdd(rule(op))}
    />
  );
}

const Small = (props: { onClick: () => void; children: React.ReactNode }) => (
  <button type="button" {...props} className="rounded border border-line px-1.5 py-0.5 hover:bg-tint" />
);

/** A step of a kind with what is selected now. */
export const withSelection = (step: PrepareStep, terms: SelectionTerm[]): PrepareStep =>
  terms.length > 0 && kindOf(step.kind).selection ? ({ ...step, selection: terms } as PrepareStep) : step;
