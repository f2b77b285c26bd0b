import type { GeneralTolerances } from "../../api/client";
import { Choice, namedOptions } from "../../ui/Choice";
import { plural } from "../../ui/format";
import { NumberField } from "../../ui/NumberField";
import { Field } from "../../ui/parts";

type Standard = GeneralTolerances["standard"];

/** Every rule as it begins; the compiler finds one that is missing. */
const rules: { readonly [S in Standard]: { name: string; start: Extract<GeneralTolerances, { standard: S }> } } = {
  "iso-2768": { name: "ISO 2768", start: { standard: "iso-2768", sizes: "m", geometry: "K" } },
  "iso-22081": { name: "ISO 22081", start: { standard: "iso-22081", profile: 0.5, size: 0.2, angle: 1 } },
};

const sizes = {
  f: { name: "f, fine" },
  m: { name: "m, medium" },
  c: { name: "c, coarse" },
  v: { name: "v, very coarse" },
} as const;

const geometry = { H: { name: "H" }, K: { name: "K" }, L: { name: "L" }, none: { name: "none" } } as const;

interface Props {
  value: GeneralTolerances | null;
  /** Rows that take their limits from it. */
  inUse: number;
  disabled: boolean;
  onChange: (to: GeneralTolerances | null) => void;
}

/** What the title block says of everything that has no tolerance of its own. */
export function GeneralTolerancesEditor({ value, inUse, disabled, onChange }: Props) {
  return (
    <div className="mt-2">
      <Field label="General tolerances">
        <Choice<Standard | "none">
          value={value?.standard ?? "none"}
          disabled={disabled}
          // Rows that rest on it must not lose their limits.
          options={inUse > 0 ? namedOptions(rules) : namedOptions({ none: { name: "none stated" }, ...rules })}
          onChange={(to) => onChange(to === "none" ? null : rules[to].start)}
        />
      </Field>
      {value?.standard === "iso-2768" && (
        <div className="mt-1 grid grid-cols-2 gap-2">
          <Field label="Sizes and angles">
            <Choice
              value={value.sizes ?? "m"}
              disabled={disabled}
              options={namedOptions(sizes)}
              onChange={(to) => onChange({ ...value, sizes: to })}
            />
          </Field>
          <Field label="Form and orientation">
            <Choice<keyof typeof geometry>
              value={value.geometry ?? "none"}
              disabled={disabled}
              options={namedOptions(geometry)}
              onChange={(to) => onChange({ ...value, geometry: to === "none" ? null : to })}
            />
          </Field>
        </div>
      )}
      {value?.standard === "iso-22081" && (
        <div className="mt-1 grid grid-cols-3 items-end gap-2">
          {(["profile", "size", "angle"] as const).map((key) => (
            <NumberField
              key={key}
              label={{ profile: "Profile, mm", size: "Sizes ±, mm", angle: "Angles ±, °" }[key]}
              value={value[key]}
              min={0}
              empty="none"
              disabled={disabled}
              onChange={(to) => onChange({ ...value, [key]: to })}
            />
          ))}
        </div>
      )}
      {value && (
        <p className="mt-1 text-xs text-soft">
          {inUse > 0
            ? `${plural(inUse, "characteristic")} ${inUse === 1 ? "takes its" : "take their"} limits from it.`
            : "Rows made from here on take their limits from it where it says something of them."}
        </p>
      )}
    </div>
  );
}
