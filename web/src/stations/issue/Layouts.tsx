import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useForm } from "react-hook-form";
import { api, take, type ReportPlan } from "../../api/client";
import { useAction, useKeepLayout, useMay } from "../../api/hooks";
import { Choice } from "../../ui/Choice";
import { CheckField, filled } from "../../ui/forms";
import { Button, Field, Input } from "../../ui/parts";
import { Block } from "../../ui/Worksheet";

interface Props {
  partId: string;
  disabled: boolean;
  onChange: (change: (report: ReportPlan) => ReportPlan) => void;
}

/** Layouts under names, of the house or a customer: taken for this part, kept by an approver. */
export function Layouts({ partId, disabled, onChange }: Props) {
  const mayKeep = useMay("approver");
  const { data: kept = [] } = useQuery({ queryKey: ["layouts"], queryFn: () => take(api.GET("/api/layouts")) });
  const [chosen, setChosen] = useState<string | null>(null);
  const { register, control, handleSubmit, resetField, formState } = useForm({
    mode: "onChange",
    defaultValues: { name: "", forNewParts: false },
  });
  const keep = useKeepLayout(partId);
  const remove = useAction(
    (gone: string) => take(api.DELETE("/api/layouts/{name}", { params: { path: { name: gone } } })),
    [["layouts"]],
  );
  const one = kept.find((l) => l.name === chosen) ?? kept.find((l) => l.forNewParts) ?? kept[0];
  return (
    <Block title="Layouts of the house">
      <div className="space-y-2">
        {one ? (
          <div className="flex items-end gap-2">
            <Field label="Kept layout">
              <Choice
                value={one.name}
                options={kept.map((l) => ({
                  value: l.name,
                  name: l.forNewParts ? `${l.name} (of new parts)` : l.name,
                }))}
                onChange={setChosen}
              />
            </Field>
            <Button disabled={disabled} onClick={() => onChange(() => one.report)}>
              Take it
            </Button>
            {mayKeep && (
              <Button tone="quiet" disabled={remove.isPending} onClick={() => remove.mutate(one.name)}>
                Remove
              </Button>
            )}
          </div>
        ) : (
          <p className="text-soft">
            None is kept yet. One that is kept under a name can be taken for any part
            {mayKeep ? "." : "; an approver keeps them."}
          </p>
        )}
        {mayKeep && (
          <form
            className="space-y-2"
            onSubmit={(e) =>
              void handleSubmit(({ name, forNewParts }) =>
                keep.mutate({ name: name.trim(), forNewParts }, { onSuccess: () => resetField("name") }),
              )(e)
            }
          >
            <div className="flex items-end gap-2">
              <Field label="Keep this report's layout as">
                <Input {...register("name", { validate: filled })} maxLength={60} />
              </Field>
              <Button type="submit" disabled={!formState.isValid || keep.isPending}>
                Keep
              </Button>
            </div>
            <CheckField name="forNewParts" control={control}>
              New parts begin with it
            </CheckField>
          </form>
        )}
      </div>
    </Block>
  );
}
