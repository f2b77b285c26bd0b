import { api, take, type Schemas } from "../../api/client";
import { useAction } from "../../api/hooks";
import { count, size } from "../../ui/format";
import { Button, Facts, Field } from "../../ui/parts";
import { Attention, Block, Worksheet } from "../../ui/Worksheet";
import { NoNominal } from "../NoNominal";
import type { StationProps } from "../types";
import { Columns } from "./Columns";
import { DataSheet } from "./DataSheet";
import { SaveAs } from "./SaveAs";
import { Choice, fileUnits } from "../../ui/Choice";

export function Receive({ piece, plan, nominal, busy, start }: StationProps) {
  const change = useAction(
    (unit: string) => take(api.POST("/api/pieces/{id}/unit", { params: { path: { id: piece.id } }, body: { unit } })),
    [["piece", piece.id]],
  );
  const wrong = piece.guess && !piece.guess.agrees;
  return (
    <Worksheet
      title="Receive"
      lead={`${piece.fileName}${piece.format ? `, ${piece.format}` : ""}`}
      action={
        <Button
          tone="primary"
          className="flex-1"
          disabled={busy || !nominal || piece.vertices === 0}
          onClick={() => start("run-plan")}
        >
          Run plan
        </Button>
      }
    >
      {piece.problem && (
        <Attention>
          <p className="text-bad">{piece.problem}</p>
          <p>Drop the file again once it is mended; the piece keeps its serial number if you give it a new one here.</p>
        </Attention>
      )}
      {wrong && (
        <Attention>
          <p className="font-semibold">The size does not fit the nominal.</p>
          <p>
            {piece.guess!.unit === piece.unit
              ? "No usual unit makes it fit. Is this the right part?"
              : `Read as ${piece.guess!.unit} instead of ${piece.unit} it would.`}
          </p>
          {piece.guess!.unit !== piece.unit && (
            <Button className="mt-2" onClick={() => change.mutate(piece.guess!.unit)}>
              Read as {piece.guess!.unit}
            </Button>
          )}
        </Attention>
      )}
      <Block title="Size">
        <dl className="num text-xs">
          <SizeOf name="scan" mm={piece.sizeMm} />
          {piece.nominalSizeMm && <SizeOf name="nominal" mm={piece.nominalSizeMm} />}
        </dl>
        <p className="mt-1 text-xs text-soft">
          The scan's box is taken in the scanner's own frame and includes stray data.
        </p>
      </Block>
      <Field label="The numbers in the scan file are in">
        <Choice value={piece.unit} disabled={busy} options={fileUnits} onChange={(unit) => change.mutate(unit)} />
      </Field>
      {piece.columns !== null && <Columns key={piece.columns} piece={piece} busy={busy} />}
      <DataSheet piece={piece} plan={plan} busy={busy} />
      {piece.vertices > 0 && !piece.problem && <SaveAs piece={piece} plan={plan.plan} />}
      {nominal ? (
        <Block title="Nominal">
          <Facts
            rows={[
              ["file", nominal.fileName],
              ["faces", count(nominal.faces.length)],
              nominal.bodies.length > 1 && ["bodies", <Bodies key="bodies" bodies={nominal.bodies} />],
              ["triangles", count(nominal.triangles)],
              nominal.isReference && [
                "for others",
                <a key="model" className="underline" href={`/api/nominals/${nominal.id}/model`}>
                  save the reference
                </a>,
              ],
              ...nominal.remarks.map((r) => ["remark", r] as const),
            ]}
          />
        </Block>
      ) : (
        <NoNominal piece={piece} busy={busy} />
      )}
    </Worksheet>
  );
}

/** Length, width and height, in both units. */
const SizeOf = ({ name, mm }: { name: string; mm: readonly number[] }) => (
  <div className="grid grid-cols-[64px_1fr] border-b border-line/60 py-1" data-testid={`${name}-size`}>
    <dt className="row-span-2 font-sans text-soft">{name}</dt>
    <dd>{size(mm, "mm")} mm</dd>
    <dd className="text-soft">{size(mm, "inch")} inch</dd>
  </div>
);

/** The parts of an assembly with the colours they have in the CAD file. */
const Bodies = ({ bodies }: { bodies: Schemas["BodyView"][] }) => (
  <span className="flex flex-wrap justify-end gap-x-2">
    {bodies.slice(0, 12).map((b, i) => (
      <span key={i} className="inline-flex items-center gap-1">
        {b.color && <span className="size-2.5 rounded-sm border border-line" style={{ background: b.color }} />}
        {b.name}
      </span>
    ))}
    {bodies.length > 12 && "…"}
  </span>
);
