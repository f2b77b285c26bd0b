import { ChevronDown, ChevronUp, GripVertical, X } from "lucide-react";
import { useState } from "react";
import type { ReportBlock, ReportPlan } from "../../api/client";
import { useMay, usePlanChange } from "../../api/hooks";
import { blockKinds, movedTo, newBlock, withBlocks, type BlockKind } from "../../plan/layout";
import { Choice } from "../../ui/Choice";
import { Button, Check, Field } from "../../ui/parts";
import { Block } from "../../ui/Worksheet";
import type { StationProps } from "../types";
import { Copies } from "./Copies";
import { House } from "./House";
import { Layouts } from "./Layouts";
import { NoteFields } from "./NoteFields";
import { PictureChoice } from "./PictureChoice";

/** What the report is made of: parts in order, dragged or moved by their arrows; kept with the plan for every next piece. */
export function Layout({ piece, plan, busy }: Pick<StationProps, "piece" | "plan" | "busy">) {
  const { mutate, isPending } = usePlanChange(piece.partId);
  const disabled = !useMay("inspector") || busy || isPending;
  const [dragged, setDragged] = useState<number | null>(null);
  const [over, setOver] = useState<number | null>(null);
  const report = plan.plan.report;
  const blocks = plan.printed;
  const put = (change: (r: ReportPlan) => ReportPlan) => mutate((p) => ({ ...p, report: change(p.report ?? {}) }));
  const save = (next: readonly ReportBlock[]) => put((r) => withBlocks(r, next));
  const change = (at: number, to: ReportBlock) => save(blocks.map((b, i) => (i === at ? to : b)));
  const move = (from: number, to: number) => {
    if (to >= 0 && to < blocks.length && to !== from) {
      save(movedTo(blocks, from, to));
    }
  };
  return (
    <>
      <Block title="Report">
        <ul className="space-y-1" aria-label="Parts of the report">
          {blocks.map((block, i) => {
            const { name, says } = blockKinds[block.kind];
            return (
              <li
                key={`${i} ${block.kind}`}
                draggable={!disabled}
                onDragStart={() => setDragged(i)}
                onDragOver={(e) => {
                  e.preventDefault();
                  setOver(i);
                }}
                onDragEnd={() => {
                  setDragged(null);
                  setOver(null);
                }}
                onDrop={(e) => {
                  e.preventDefault();
                  if (dragged !== null) {
                    move(dragged, i);
                  }
                }}
                className={`rounded border px-1 py-0.5 ${over === i && dragged !== null ? "border-indigo bg-tint" : "border-line"}`}
              >
                <div className="flex items-center gap-1">
                  <GripVertical size={14} className="shrink-0 cursor-grab text-soft" aria-hidden />
                  <span className="min-w-0 flex-1 truncate" title={says}>
                    {name} <span className="text-xs text-soft">{says}</span>
                  </span>
                  <Tool name={`${name} further up`} disabled={disabled || i === 0} onClick={() => move(i, i - 1)}>
                    <ChevronUp size={14} aria-hidden />
                  </Tool>
                  <Tool
                    name={`${name} further down`}
                    disabled={disabled || i === blocks.length - 1}
                    onClick={() => move(i, i + 1)}
                  >
                    <ChevronDown size={14} aria-hidden />
                  </Tool>
                  <Tool
                    name={`${name} out of the report`}
                    disabled={disabled || blocks.length === 1}
                    onClick={() => save(blocks.filter((_, k) => k !== i))}
                  >
                    <X size={14} aria-hidden />
                  </Tool>
                </div>
                <Options block={block} disabled={disabled} onChange={(to) => change(i, to)} />
                {blockKinds[block.kind].narrow && (
                  <div className="py-1 pl-5 text-xs">
                    <Check
                      checked={block.half ?? false}
                      disabled={disabled}
                      onChange={(half) => change(i, { ...block, half })}
                    >
                      half the page, beside another half
                    </Check>
                  </div>
                )}
              </li>
            );
          })}
        </ul>
        <div className="mt-2 flex items-end gap-2">
          <div className="flex-1">
            <Field label="Add a part">
              <Choice
                value={null as BlockKind | null}
                disabled={disabled}
                options={(Object.keys(blockKinds) as BlockKind[])
                  .filter((kind) => kind !== "picture")
                  .map((value) => ({ value, name: `${blockKinds[value].name}: ${blockKinds[value].says}` }))}
                onChange={(kind) => kind && save([...blocks, newBlock(kind)])}
              />
            </Field>
          </div>
          <PictureChoice
            label="Picture for the report"
            disabled={disabled}
            onChoose={(picture, caption) => save([...blocks, { kind: "picture", picture, caption }])}
          >
            Picture …
          </PictureChoice>
        </div>
        {report?.blocks && report.blocks.length > 0 && (
          <Button tone="quiet" className="mt-1" disabled={disabled} onClick={() => save([])}>
            As usual again
          </Button>
        )}
      </Block>
      <House report={report ?? {}} disabled={disabled} onChange={put} />
      <Copies report={report ?? {}} disabled={disabled} onChange={put} />
      <Layouts partId={piece.partId} disabled={disabled} onChange={put} />
    </>
  );
}

function Tool({
  name,
  disabled,
  onClick,
  children,
}: {
  name: string;
  disabled: boolean;
  onClick: () => void;
  children: React.ReactNode;
}) {
  return (
    <button
      type="button"
      aria-label={name}
      title={name}
      disabled={disabled}
      onClick={onClick}
      className="grid size-6 shrink-0 place-items-center rounded hover:bg-tint disabled:opacity-30"
    >
      {children}
    </button>
  );
}

/** What can be chosen of a part. */
function Options({
  block,
  disabled,
  onChange,
}: {
  block: ReportBlock;
  disabled: boolean;
  onChange: (to: ReportBlock) => void;
}) {
  switch (block.kind) {
    case "table":
      return (
        <div className="flex gap-4 py-1 pl-5 text-xs">
          <Check
            checked={block.onlyOpen ?? false}
            disabled={disabled}
            onChange={(onlyOpen) => onChange({ ...block, onlyOpen })}
          >
            only what is open
          </Check>
          <Check
            checked={!(block.withoutMethod ?? false)}
            disabled={disabled}
            onChange={(on) => onChange({ ...block, withoutMethod: !on })}
          >
            how it was found
          </Check>
        </div>
      );
    case "evidence":
      return (
        <div className="py-1 pl-5 text-xs">
          <Check
            checked={block.notProven ?? false}
            disabled={disabled}
            onChange={(notProven) => onChange({ ...block, notProven })}
          >
            of what is not proven, too
          </Check>
        </div>
      );
    case "note":
      return <NoteFields note={block} disabled={disabled} onChange={onChange} />;
    case "picture":
      return block.caption ? <p className="truncate pl-5 text-xs text-soft">{block.caption}</p> : null;
    default:
      return null;
  }
}
