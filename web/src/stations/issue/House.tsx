import type { ReportPlan } from "../../api/client";
import { Choice } from "../../ui/Choice";
import { TextField } from "../../ui/NumberField";
import { Button, Check, Field } from "../../ui/parts";
import { Block } from "../../ui/Worksheet";
import { PictureChoice } from "./PictureChoice";

const papers = [
  { value: "a4" as const, name: "A4" },
  { value: "letter" as const, name: "Letter" },
];

interface Props {
  report: ReportPlan;
  disabled: boolean;
  onChange: (change: (report: ReportPlan) => ReportPlan) => void;
}

/** Whose report it is (title, address, logo, paper), and what it takes to hold. */
export function House({ report, disabled, onChange }: Props) {
  return (
    <Block title="Head">
      <div className="space-y-2">
        <div className="grid grid-cols-[1fr_88px] gap-2">
          <TextField
            label="Title"
            value={report.title ?? ""}
            optional
            disabled={disabled}
            onChange={(title) => onChange((r) => ({ ...r, title }))}
          />
          <Field label="Paper">
            <Choice
              value={report.paper ?? "a4"}
              disabled={disabled}
              options={papers}
              onChange={(paper) => onChange((r) => ({ ...r, paper }))}
            />
          </Field>
        </div>
        <TextField
          label="Name and address, lines parted by ;"
          value={(report.house ?? "").replaceAll("\n", "; ")}
          optional
          disabled={disabled}
          onChange={(house) =>
            onChange((r) => ({
              ...r,
              house: house
                .split(";")
                .map((l) => l.trim())
                .join("\n"),
            }))
          }
        />
        <div className="flex items-center gap-2">
          {report.logo && (
            <img
              alt="Logo"
              className="max-h-8 max-w-24 border border-line bg-white"
              src={`data:;base64,${report.logo.base64}`}
            />
          )}
          <PictureChoice
            label="Logo of the report"
            disabled={disabled}
            onChoose={(logo) => onChange((r) => ({ ...r, logo }))}
          >
            {report.logo ? "Another logo …" : "Logo …"}
          </PictureChoice>
          {report.logo && (
            <Button tone="quiet" disabled={disabled} onClick={() => onChange((r) => ({ ...r, logo: null }))}>
              Without
            </Button>
          )}
        </div>
        <Check
          checked={report.countersigned ?? false}
          disabled={disabled}
          onChange={(countersigned) => onChange((r) => ({ ...r, countersigned }))}
        >
          Holds only once somebody else has countersigned it
        </Check>
      </div>
    </Block>
  );
}
