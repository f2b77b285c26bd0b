import { X } from "lucide-react";
import { useForm } from "react-hook-form";
import type { ReportPlan } from "../../api/client";
import { copyWhen, formatNames, formats, newCopy, whereTo, type CopyPlan } from "../../plan/copies";
import { Choice, namedOptions } from "../../ui/Choice";
import { ChoiceField, filled } from "../../ui/forms";
import { Button, Check, Field, Input, Named } from "../../ui/parts";
import { Block } from "../../ui/Worksheet";

const kinds = [
  { value: "mail" as const, name: "Mail" },
  { value: "folder" as const, name: "Folder" },
];

interface Wanted {
  kind: CopyPlan["kind"];
  to: string;
}

interface Props {
  report: ReportPlan;
  disabled: boolean;
  onChange: (change: (report: ReportPlan) => ReportPlan) => void;
}

/** Which copies go out by themselves when a report of this part is issued and holds. */
export function Copies({ report, disabled, onChange }: Props) {
  const { register, control, watch, handleSubmit, resetField, formState } = useForm<Wanted>({
    mode: "onChange",
    defaultValues: { kind: "mail", to: "" },
  });
  const kind = watch("kind");
  const copies = report.copies ?? [];
  const put = (change: (copies: readonly CopyPlan[]) => readonly CopyPlan[]) =>
    onChange((r) => ({ ...r, copies: [...change(r.copies ?? [])] }));
  const change = (at: number, to: CopyPlan) => put((all) => all.map((c, i) => (i === at ? to : c)));
  return (
    <Block title="Copies">
      <div className="space-y-2">
        {copies.length === 0 && (
          <p className="text-soft">None goes out. What is issued here can go by mail or into a folder, by itself.</p>
        )}
        <ul className="space-y-2" aria-label="Copies that go out">
          {copies.map((copy, i) => (
            <li key={`${i} ${whereTo(copy)}`} className="rounded border border-line p-2">
              <div className="flex items-center gap-2">
                <span className="min-w-0 flex-1 truncate font-medium" title={whereTo(copy)}>
                  {whereTo(copy)}
                </span>
                <Named name={`Without ${whereTo(copy)}`}>
                  <Button
                    tone="quiet"
                    className="px-1"
                    aria-label={`Without ${whereTo(copy)}`}
                    disabled={disabled}
                    onClick={() => put((all) => all.filter((_, k) => k !== i))}
                  >
                    <X size={14} aria-hidden />
                  </Button>
                </Named>
              </div>
              <Choice
                aria-label={`When: ${whereTo(copy)}`}
                value={copy.when ?? "always"}
                disabled={disabled}
                options={namedOptions(copyWhen)}
                onChange={(when) => change(i, { ...copy, when })}
              />
              <div className="mt-1.5 grid grid-cols-4 gap-x-2 gap-y-1 text-xs" role="group" aria-label="Files">
                {formats
                  .filter((f) => copy.kind === "folder" || f !== "note")
                  .map((f) => (
                    <Check
                      key={f}
                      checked={copy.files?.includes(f) ?? false}
                      disabled={disabled || (copy.kind === "folder" && copy.files?.length === 1 && copy.files[0] === f)}
                      onChange={(on) =>
                        change(i, {
                          ...copy,
                          files: formats.filter((x) => (x === f ? on : copy.files?.includes(x))),
                        })
                      }
                    >
                      {formatNames[f]}
                    </Check>
                  ))}
              </div>
              {copy.kind === "mail" && <p className="mt-1 text-xs text-soft">Its text is the note to manufacturing.</p>}
            </li>
          ))}
        </ul>
        <form
          className="grid grid-cols-[96px_1fr_auto] items-end gap-2"
          onSubmit={(e) =>
            void handleSubmit((wanted) => {
              put((all) => [...all, newCopy(wanted.kind, wanted.to)]);
              resetField("to");
            })(e)
          }
        >
          <ChoiceField label="By" name="kind" deps="to" control={control} disabled={disabled} options={kinds} />
          <Field label={kind === "mail" ? "Address" : "Folder, if any"}>
            <Input
              {...register("to", { validate: (to, wanted) => wanted.kind === "folder" || filled(to) })}
              type={kind === "mail" ? "email" : "text"}
              maxLength={254}
              disabled={disabled}
            />
          </Field>
          <Button type="submit" disabled={disabled || !formState.isValid}>
            Add copy
          </Button>
        </form>
      </div>
    </Block>
  );
}
