import type { ReactNode } from "react";
import { Controller, type Control, type FieldPath, type FieldPathByValue, type FieldValues } from "react-hook-form";
import { Choice, type Option } from "./Choice";
import { Check, Field } from "./parts";

/** Whether more than blanks was typed: a rule for fields that may not be empty. */
export const filled = (text: string) => text.trim() !== "";

/** What went wrong when the form was sent; nothing while all is well. */
export const FormError = ({ error }: { error: Error | null }) =>
  error && (
    <p className="text-bad" role="alert">
      {error.message}
    </p>
  );

interface Of<V extends FieldValues, T> {
  name: FieldPathByValue<V, T>;
  control: Control<V>;
}

interface ChoiceProps<V extends FieldValues, T> extends Of<V, T> {
  label: string;
  options: readonly Option<T>[];
  disabled?: boolean;
  /** A field whose rules ask for this one: it is checked anew with it. */
  deps?: FieldPath<V>;
}

/** One of a closed set, as a field of a form. */
export const ChoiceField = <V extends FieldValues, T>({ label, options, disabled, deps, ...of }: ChoiceProps<V, T>) => (
  <Controller
    {...of}
    rules={{ deps }}
    render={({ field: { value, onChange } }) => (
      <Field label={label}>
        <Choice<T> value={value} disabled={disabled} options={options} onChange={onChange} />
      </Field>
    )}
  />
);

/** A switch, as a field of a form. */
export const CheckField = <V extends FieldValues>({ children, ...of }: Of<V, boolean> & { children: ReactNode }) => (
  <Controller
    {...of}
    render={({ field: { value, onChange } }) => (
      <Check checked={value} onChange={onChange}>
        {children}
      </Check>
    )}
  />
);
