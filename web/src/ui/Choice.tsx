import { Check as Tick, ChevronDown } from "lucide-react";
import { DropdownMenu, Select } from "radix-ui";

/** One of the things to choose from; without a name it is its value that is shown. */
export interface Option<T> {
  value: T;
  name?: string;
  disabled?: boolean;
}

/** The options of a table of kinds. */
export const namedOptions = <K extends string>(kinds: Record<K, { name: string }>): Option<K>[] =>
  (Object.keys(kinds) as K[]).map((value) => ({ value, name: kinds[value].name }));

/** Units that a scan or a mesh may be in. */
export const fileUnits = ["mm", "cm", "m", "inch"].map((value) => ({ value }));

interface Labelled {
  /** Given by the field around it; else `aria-label` names the control. */
  id?: string;
  "aria-label"?: string;
  disabled?: boolean;
  className?: string;
}

const list =
  "z-50 max-h-[min(38rem,var(--radix-popper-available-height))] overflow-auto rounded border border-line bg-panel p-1 shadow";
const item =
  "flex h-7 items-center gap-2 rounded px-2 outline-none select-none data-[disabled]:opacity-45 data-[highlighted]:bg-tint";
const face =
  "inline-flex h-8 items-center justify-between gap-1 rounded border border-line bg-panel px-2 disabled:opacity-45";

/** One of a closed set. What is chosen by is any value: the place in the list stands for it. */
export function Choice<T>({
  options,
  value,
  onChange,
  className = "w-full",
  ...rest
}: Labelled & { options: readonly Option<T>[]; value: T; onChange: (value: T) => void }) {
  const at = options.findIndex((o) => o.value === value);
  return (
    <Select.Root
      value={at < 0 ? "" : String(at)}
      onValueChange={(i) => i !== "" && onChange(options[Number(i)].value)}
      disabled={rest.disabled}
    >
      <Select.Trigger {...rest} className={`${face} min-w-0 ${className}`}>
        <span className="truncate">
          <Select.Value />
        </span>
        <ChevronDown size={14} className="shrink-0 text-soft" aria-hidden />
      </Select.Trigger>
      <Select.Portal>
        <Select.Content
          position="popper"
          sideOffset={2}
          collisionPadding={4}
          className={`${list} min-w-(--radix-select-trigger-width)`}
        >
          <Select.Viewport>
            {options.map((o, i) => (
              <Select.Item key={i} value={String(i)} disabled={o.disabled} className={item}>
                <span className="w-3.5">
                  <Select.ItemIndicator>
                    <Tick size={14} aria-hidden />
                  </Select.ItemIndicator>
                </span>
                <Select.ItemText>{o.name ?? String(o.value)}</Select.ItemText>
              </Select.Item>
            ))}
          </Select.Viewport>
        </Select.Content>
      </Select.Portal>
    </Select.Root>
  );
}

export interface MenuGroup<T> {
  name?: string;
  options: readonly Option<T>[];
}

/** A button that opens a list of things to do. */
export function Menu<T>({
  name,
  groups,
  onPick,
  disabled,
  className = "",
}: {
  name: string;
  groups: readonly MenuGroup<T>[];
  onPick: (value: T) => void;
  disabled?: boolean;
  className?: string;
}) {
  return (
    <DropdownMenu.Root modal={false}>
      <DropdownMenu.Trigger disabled={disabled} className={`${face} font-medium hover:bg-tint ${className}`}>
        {name}
        <ChevronDown size={14} className="shrink-0 text-soft" aria-hidden />
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content align="start" sideOffset={2} collisionPadding={4} className={list}>
          {groups.map((g, k) => (
            <DropdownMenu.Group key={k}>
              {g.name && <DropdownMenu.Label className="px-2 pt-1 text-xs text-soft">{g.name}</DropdownMenu.Label>}
              {g.options.map((o, i) => (
                <DropdownMenu.Item key={i} disabled={o.disabled} onSelect={() => onPick(o.value)} className={item}>
                  {o.name ?? String(o.value)}
                </DropdownMenu.Item>
              ))}
            </DropdownMenu.Group>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
