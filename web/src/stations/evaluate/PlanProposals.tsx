import { useQuery } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { api, take, type InspectionPlan, type PlanView, type Schemas } from "../../api/client";
import { characteristicKinds } from "../../plan/characteristics";
import { Indicator } from "../../plan/Indicator";
import { withProposed } from "../../plan/proposal";
import { plural } from "../../ui/format";
import { OneOf } from "../../ui/OneOf";
import { Button, Check } from "../../ui/parts";
import { Attention, Block } from "../../ui/Worksheet";
import { FileChoice } from "../../ui/FileChoice";

interface Props {
  plan: PlanView;
  partId: string;
  disabled: boolean;
  onChange: (to: (p: InspectionPlan) => InspectionPlan) => void;
}

type Source = Schemas["ProposalSource"];

const sources: { value: Source; name: string }[] = [
  { value: "pmi", name: "CAD file" },
  { value: "table", name: "Table" },
  { value: "faces", name: "Faces" },
];

const told = (general: string | null | undefined): Record<Source, string> => ({
  pmi: "Datums, dimensions and tolerances that the CAD file carries.",
  table: "The lines of the drawing's table, each on the surfaces that suit it. Doubtful ones wait for a tick.",
  faces: general
    ? `With the general tolerances of the plan, ${general}; what they say nothing of begins with ISO 2768-mK.`
    : "Tolerances begin with ISO 2768-mK. Set those of the drawing next.",
});

/** A plan that proposes itself: from the CAD file's product information, a table of the drawing, or the faces; a list to tick. */
export function PlanProposals({ plan, partId, disabled, onChange }: Props) {
  const [open, setOpen] = useState(false);
  const [source, setSource] = useState<Source | null>(null);
  const [table, setTable] = useState<Schemas["TableFile"] | null>(null);
  // Ticks that differ from how each begins: taken, but for what is doubtful.
  const [turned, setTurned] = useState<ReadonlySet<number>>(new Set());
  const file = useRef<HTMLInputElement>(null);
  const proposal = useQuery({
    queryKey: ["plan-proposal", partId, plan.number, source, table],
    enabled: open && (source !== "table" || table !== null),
    staleTime: Infinity,
    retry: false,
    queryFn: () =>
      take(
        api.POST("/api/parts/{id}/plan/proposal", {
          params: { path: { id: partId } },
          body: { sources: source && [source], table: source === "table" ? table : null },
        }),
      ),
  });
  if (!open) {
    return (
      <Button disabled={disabled} onClick={() => setOpen(true)}>
        Propose from the nominal
      </Button>
    );
  }

  const made = proposal.data;
  const shown = source ?? (made?.hasInformation ? "pmi" : "faces");
  const doubtful = new Set(made?.doubtful);
  const isTaken = (no: number) => turned.has(no) === doubtful.has(no);
  const taken = made?.characteristics.filter((c) => isTaken(c.no)) ?? [];
  const turn = (numbers: number[]) =>
    setTurned((now) => new Set([...now, ...numbers].filter((n) => now.has(n) !== numbers.includes(n))));
  const from = (to: Source) => {
    setTurned(new Set());
    setSource(to);
    if (to === "table") {
      file.current?.click();
    }
  };
  return (
    <Block title="Proposed">
      <OneOf label="Proposed from" options={sources} value={shown} onChange={from} />
      <FileChoice
        ref={file}
        label="Table of the drawing"
        accept=".csv,.xlsx"
        onChoose={([f]) =>
          void asTable(f).then((read) => {
            setTurned(new Set());
            setTable(read);
          })
        }
      />
      <p className="my-1 text-xs text-soft">{told(plan.generalTolerances)[shown]}</p>
      {shown === "table" && (
        <p className="mb-1">
          <Button onClick={() => file.current?.click()}>{table ? table.fileName : "Choose a CSV or XLSX file"}</Button>
        </p>
      )}
      {proposal.isFetching && <p role="status">Looking over the faces …</p>}
      {proposal.error && <Attention>{proposal.error.message}</Attention>}
      {made && !proposal.error && (
        <>
          {made.datums.length > 0 && (
            <p className="mb-1">
              Datums:{" "}
              {made.datums.map((d) => `${d.label} ${nameOf(d.features[0], made.features, plan.plan)}`).join(", ")}
            </p>
          )}
          <ul aria-label="Proposed" className="max-h-80 overflow-auto">
            {made.characteristics.map((c) => (
              <li key={c.no} className="border-b border-line py-1">
                <Check checked={isTaken(c.no)} disabled={disabled} onChange={() => turn([c.no])}>
                  <span className="num text-soft">{c.no}</span>{" "}
                  <span className="font-semibold">{characteristicKinds[c.kind].name}</span>{" "}
                  <span className="text-xs text-soft">{c.name}</span>
                  {doubtful.has(c.no) && <span className="text-xs text-brass"> doubtful</span>}
                  <span className="mt-0.5 block">
                    <Indicator kind={c.kind} text={made.drawn?.find((d) => d.no === c.no)?.text ?? ""} />
                  </span>
                </Check>
              </li>
            ))}
          </ul>
          {made.doubts.map((d) => (
            <p key={d} className="mt-1 text-xs text-brass">
              {d}
            </p>
          ))}
          <div className="mt-2 flex gap-2">
            <Button
              tone="primary"
              disabled={disabled || taken.length === 0}
              onClick={() => {
                onChange((p) => withProposed(p, made, taken, shown === "table"));
                setOpen(false);
              }}
            >
              Take {plural(taken.length, "characteristic")}
            </Button>
            <Button
              onClick={() => {
                const all = taken.length < made.characteristics.length;
                turn(made.characteristics.map((c) => c.no).filter((no) => isTaken(no) !== all));
              }}
            >
              {taken.length < made.characteristics.length ? "All" : "None"}
            </Button>
            <Button tone="quiet" onClick={() => setOpen(false)}>
              Close
            </Button>
          </div>
        </>
      )}
    </Block>
  );
}

/** A file as it is sent: its bytes as base64. */
async function asTable(file: File): Promise<Schemas["TableFile"]> {
  const bytes = new Uint8Array(await file.arrayBuffer());
  let binary = "";
  for (const b of bytes) {
    binary += String.fromCharCode(b);
  }

  return { fileName: file.name, bytes: btoa(binary) };
}

const nameOf = (id: string, made: readonly { id: string; name: string }[], plan: InspectionPlan) =>
  [...made, ...(plan.features ?? [])].find((f) => f.id === id)?.name ?? id;
