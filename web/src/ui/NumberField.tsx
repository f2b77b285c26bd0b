import { useState, type InputHTMLAttributes } from "react";
import { Field, Input } from "./parts";

interface Props {
  label: string;
  value: number | null | undefined;
  /** Called once typing is over and the value is another. */
  onChange: (value: number | null) => void;
  /** An empty field means "nothing"; its placeholder says what then holds. */
  empty?: string;
  min?: number;
  max?: number;
  disabled?: boolean;
  hint?: string;
}

type Kept = Omit<InputHTMLAttributes<HTMLInputElement>, "onChange" | "onBlur" | "onKeyDown"> & {
  /** What is typed; null: Escape gave it up. */
  onType: (text: string | null) => void;
  /** Enter was pressed, or the field is left. */
  onKeep: () => void;
};

/** What is typed is kept when Enter is pressed or the field is left; Escape gives it up. */
export const KeptInput = ({ onType, onKeep, ...props }: Kept) => (
  <Input
    {...props}
    onChange={(e) => onType(e.target.value)}
    onBlur={onKeep}
    onKeyDown={(e) => {
      if (e.key === "Enter") {
        // Leaving the field keeps it; undo then is the plan's, not the field's.
        e.currentTarget.blur();
      } else if (e.key === "Escape") {
        onType(null);
      }
    }}
  />
);

/** A number that is kept when Enter is pressed or the field is left; what is no number is marked and not kept. */
export function NumberField({ label, value, onChange, empty, min, max, disabled, hint }: Props) {
  const shown = value == null ? "" : String(value);
  const [draft, setDraft] = useState<{ of: string; text: string } | null>(null);
  // A value that changed elsewhere, as by undo, wins over what was typed before.
  const text = draft?.of === shown ? draft.text : shown;
  const number = text.trim() === "" ? null : Number(text.replace(",", "."));
  const wrong =
    number === null
      ? empty === undefined && "A number is needed."
      : !Number.isFinite(number)
        ? "This is no number."
        : min !== undefined && number < min
          ? `At least ${min}.`
          : max !== undefined && number > max && `At most ${max}.`;
  const keep = () => {
    if (draft && !wrong && number !== (value ?? null)) {
      onChange(number);
    }

    if (!wrong) {
      setDraft(null);
    }
  };
  return (
    <Field label={label} hint={hint} error={draft !== null && wrong}>
      <KeptInput
        inputMode="decimal"
        className="num"
        value={text}
        placeholder={empty}
        disabled={disabled}
        onType={(typed) => setDraft(typed === null ? null : { of: shown, text: typed })}
        onKeep={keep}
      />
    </Field>
  );
}

/** A short text, kept likewise. */
export function TextField({
  label,
  value,
  onChange,
  disabled,
  optional = false,
}: {
  label: string;
  value: string;
  onChange: (value: string) => void;
  disabled?: boolean;
  /** It may be empty. */
  optional?: boolean;
}) {
  const [draft, setDraft] = useState<{ of: string; text: string } | null>(null);
  const text = draft?.of === value ? draft.text : value;
  const keep = () => {
    if ((optional || text.trim() !== "") && text !== value) {
      onChange(text.trim());
    }

    setDraft(null);
  };
  return (
    <Field label={label}>
      <KeptInput
        value={text}
        disabled={disabled}
        onType={(typed) => setDraft(typed === null ? null : { of: value, text: typed })}
        onKeep={keep}
      />
    </Field>
  );
}
