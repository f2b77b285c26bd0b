import { useRef } from "react";
import type { ReportPlan } from "../../api/client";
import { Choice } from "../../ui/Choice";
import { FileChoice } from "../../ui/FileChoice";
import { TextField } from "../../ui/NumberField";
import { say } from "../../ui/notices";
import { Button, Field } from "../../ui/parts";
import { Block } from "../../ui/Worksheet";
import { pictureOf } from "./pictures";

const papers = [
  { value: "a4" as const, name: "A4" },
  { value: "letter" as const, name: "Letter" },
];

interface Props {
  report: ReportPlan;
  disabled: boolean;
  onChange: (change: (report: ReportPlan) => ReportPlan) => void;
}

/** Whose report it is: title, address, logo, paper. */
export function House({ report, disabled, onChange }: Props) {
  const file = useRef<HTMLInputElement>(null);
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
          <Button disabled={disabled} onClick={() => file.current?.click()}>
            {report.logo ? "Another logo …" : "Logo …"}
          </Button>
          {report.logo && (
            <Button tone="quiet" disabled={disabled} onClick={() => onChange((r) => ({ ...r, logo: null }))}>
              Without
            </Button>
          )}
          <FileChoice
            label="Logo of the report"
            ref={file}
            accept=".png,.jpg,.jpeg"
            onChoose={([chosen]) =>
              void pictureOf(chosen).then(
                (logo) => onChange((r) => ({ ...r, logo })),
                (e: Error) => say(e.message, "bad"),
              )
            }
          />
        </div>
      </div>
    </Block>
  );
}
