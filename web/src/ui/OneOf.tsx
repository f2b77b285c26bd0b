import { ToggleGroup } from "radix-ui";

const looks = {
  boxes: {
    group: "flex rounded border border-line",
    item: "px-2.5 py-1 hover:bg-tint data-[state=on]:bg-indigo data-[state=on]:text-panel",
  },
  tabs: {
    group: "flex gap-3",
    item:
      "border-b-2 border-transparent text-soft data-[state=on]:border-indigo data-[state=on]:font-semibold " +
      "data-[state=on]:text-ink",
  },
};

interface Props<T extends string> {
  label: string;
  options: readonly { value: T; name: string }[];
  value: T;
  onChange: (value: T) => void;
  look?: keyof typeof looks;
}

/** A few things side by side, one of which is always chosen. */
export function OneOf<T extends string>({ label, options, value, onChange, look = "boxes" }: Props<T>) {
  return (
    <ToggleGroup.Root
      type="single"
      className={looks[look].group}
      aria-label={label}
      value={value}
      onValueChange={(v) => v !== "" && onChange(v as T)}
    >
      {options.map((o) => (
        <ToggleGroup.Item key={o.value} value={o.value} className={looks[look].item}>
          {o.name}
        </ToggleGroup.Item>
      ))}
    </ToggleGroup.Root>
  );
}
