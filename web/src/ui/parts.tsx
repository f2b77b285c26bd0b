import { Check as Tick, X } from "lucide-react";
import { Checkbox, Dialog as RadixDialog, Progress as RadixProgress, Tooltip } from "radix-ui";
import {
  cloneElement,
  useId,
  type ButtonHTMLAttributes,
  type ComponentProps,
  type ReactElement,
  type ReactNode,
} from "react";

type ButtonProps = ButtonHTMLAttributes<HTMLButtonElement> & { tone?: "primary" | "plain" | "quiet" };

const tones = {
  primary: "bg-indigo text-panel border-indigo hover:opacity-90",
  plain: "bg-panel border-line hover:bg-tint",
  quiet: "border-transparent hover:bg-tint",
};

const button =
  "inline-flex h-8 items-center justify-center gap-1.5 rounded border px-3 font-medium " +
  "disabled:cursor-not-allowed disabled:opacity-45";

export function Button({ tone = "plain", className = "", type = "button", ...rest }: ButtonProps) {
  return <button type={type} className={`${button} ${tones[tone]} ${className}`} {...rest} />;
}

/** A link that looks like a plain button. */
export const linkButton =
  "inline-flex h-8 items-center gap-1.5 rounded border border-line bg-panel px-3 font-medium hover:bg-tint";

/** One of several things that are offered: what it is at the left, what comes of it at the right. */
export const offerButton =
  "flex w-full items-baseline justify-between gap-2 rounded border border-line px-2 py-1 text-left " +
  "hover:bg-tint disabled:opacity-45";

/** Names a tool that shows only a sign, with its key, at once on hover and focus. */
export function Named({ name, keys, children }: { name: string; keys?: string; children: ReactElement }) {
  return (
    <Tooltip.Root>
      <Tooltip.Trigger asChild>{children}</Tooltip.Trigger>
      <Tooltip.Portal>
        <Tooltip.Content
          sideOffset={4}
          collisionPadding={4}
          className="z-50 rounded bg-ink px-2 py-1 text-xs text-panel shadow"
        >
          {name}
          {keys && <kbd className="num ml-2 opacity-75">{keys}</kbd>}
        </Tooltip.Content>
      </Tooltip.Portal>
    </Tooltip.Root>
  );
}

/** A labelled control: its accessible name is the label alone. */
export function Field({
  label,
  hint,
  error,
  children,
}: {
  label: string;
  hint?: string;
  /** What is wrong with it, said in place of the hint. */
  error?: string | false;
  children: ReactElement<{ id?: string; "aria-invalid"?: boolean; "aria-describedby"?: string }>;
}) {
  const id = useId();
  const said = `${id} said`;
  return (
    <div>
      <label htmlFor={id} className="mb-0.5 block text-xs text-soft">
        {label}
      </label>
      {cloneElement(
        children,
        error ? { id, "aria-invalid": true, "aria-describedby": said } : { id, "aria-describedby": hint && said },
      )}
      {(error || hint) && (
        <span id={said} className={`mt-0.5 block text-xs ${error ? "text-bad" : "text-soft"}`}>
          {error || hint}
        </span>
      )}
    </div>
  );
}

const box = "h-8 w-full rounded border border-line bg-panel px-2 aria-invalid:border-bad";

export const Input = (props: ComponentProps<"input">) => (
  <input {...props} className={`${box} ${props.className ?? ""}`} />
);

const tickBox =
  "mt-0.5 grid size-4 shrink-0 place-items-center rounded-[3px] border border-soft bg-panel " +
  "data-[state=checked]:border-indigo data-[state=checked]:bg-indigo";

/** A switch with its words beside it. */
export function Check({
  checked,
  onChange,
  disabled,
  name,
  children,
}: {
  checked: boolean;
  onChange: (on: boolean) => void;
  disabled?: boolean;
  /** Its accessible name where no words stand beside it. */
  name?: string;
  children?: ReactNode;
}) {
  return (
    <label className={`flex items-start gap-2 ${disabled ? "opacity-45" : ""}`}>
      <Checkbox.Root
        checked={checked}
        disabled={disabled}
        onCheckedChange={(on) => onChange(on === true)}
        aria-label={name}
        className={tickBox}
      >
        <Checkbox.Indicator>
          <Tick size={12} strokeWidth={3} className="text-panel" aria-hidden />
        </Checkbox.Indicator>
      </Checkbox.Root>
      {children && <span>{children}</span>}
    </label>
  );
}

/** A table of facts: name left, value right. */
export function Facts({ rows }: { rows: (readonly [string, ReactNode] | false | null | undefined)[] }) {
  return (
    <dl className="grid grid-cols-[auto_1fr] gap-x-3">
      {rows.map((row) =>
        row ? (
          <div key={row[0]} className="col-span-2 grid grid-cols-subgrid border-b border-line/60 py-1">
            <dt className="text-soft">{row[0]}</dt>
            <dd className="num text-right">{row[1]}</dd>
          </div>
        ) : null,
      )}
    </dl>
  );
}

/** The head of a page's table. */
export const Columns = ({ names }: { names: readonly string[] }) => (
  <thead className="text-left text-xs text-soft">
    <tr>
      {names.map((name) => (
        <th key={name} className="px-3 py-1.5 font-normal">
          {name}
        </th>
      ))}
    </tr>
  </thead>
);

export function Bar({ share, label }: { share: number; label: string }) {
  return (
    <RadixProgress.Root
      value={Math.round(100 * share)}
      aria-label={label}
      className="h-1.5 overflow-hidden rounded bg-line"
    >
      <RadixProgress.Indicator
        className="h-full bg-indigo transition-[width] duration-200"
        style={{ width: `${100 * share}%` }}
      />
    </RadixProgress.Root>
  );
}

const dialog =
  "fixed top-1/2 left-1/2 z-50 max-h-[90vh] max-w-[95vw] -translate-x-1/2 -translate-y-1/2 overflow-auto " +
  "rounded border border-line bg-panel p-5 shadow-lg";

interface DialogProps {
  open: boolean;
  title: string;
  about?: string;
  onClose: () => void;
  children: ReactNode;
  wide?: boolean;
}

export function Dialog({ open, title, about, onClose, children, wide }: DialogProps) {
  return (
    <RadixDialog.Root open={open} onOpenChange={(o) => !o && onClose()}>
      <RadixDialog.Portal>
        <RadixDialog.Overlay className="fixed inset-0 z-40 bg-ink/30" />
        <RadixDialog.Content aria-describedby={undefined} className={`${dialog} ${wide ? "w-[680px]" : "w-[460px]"}`}>
          <div className="mb-3 flex items-start justify-between gap-4">
            <div>
              <RadixDialog.Title className="text-xl font-semibold">{title}</RadixDialog.Title>
              {about && <p className="text-soft">{about}</p>}
            </div>
            <RadixDialog.Close className="rounded p-1 hover:bg-tint" aria-label="Close">
              <X size={16} />
            </RadixDialog.Close>
          </div>
          {children}
        </RadixDialog.Content>
      </RadixDialog.Portal>
    </RadixDialog.Root>
  );
}
