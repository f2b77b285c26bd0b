import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { api, take, type CharacteristicPlan } from "../../api/client";
import { Indicator } from "../../plan/Indicator";
import { KeptInput } from "../../ui/NumberField";
import { Field } from "../../ui/parts";

interface Props {
  partId: string;
  characteristic: CharacteristicPlan;
  /** As it stands. */
  text: string;
  disabled: boolean;
  onChange: (to: CharacteristicPlan) => void;
}

/** Limits, zone, material and datums written as on a drawing; what has an error in it is not kept, and says so. */
export function AsDrawnField({ partId, characteristic: c, text, disabled, onChange }: Props) {
  const [draft, setDraft] = useState<string | null>(null);
  const write = useMutation({
    mutationFn: (written: string) =>
      take(
        api.POST("/api/parts/{id}/plan/as-drawn", {
          params: { path: { id: partId } },
          body: { characteristic: c, text: written },
        }),
      ),
    onSuccess: (to) => {
      setDraft(null);
      onChange(to);
    },
  });
  const keep = () => {
    if (draft !== null && draft.trim() !== "" && draft !== text) {
      write.mutate(draft);
    } else {
      setDraft(null);
    }
  };
  return (
    <div>
      <p className="mb-1">
        <Indicator kind={c.kind} text={text} />
      </p>
      <Field label="As on the drawing" hint={draft !== null && write.error ? write.error.message : undefined}>
        <KeptInput
          className="num"
          value={draft ?? text}
          disabled={disabled}
          aria-invalid={draft !== null && write.isError}
          onType={setDraft}
          onKeep={keep}
        />
      </Field>
    </div>
  );
}
