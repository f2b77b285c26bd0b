import { useState } from "react";
import { axes, axisOf, offsetOf, series, type SectionPlan, type SeriesWay } from "../../plan/sections";
import { plural } from "../../ui/format";
import { NumberField } from "../../ui/NumberField";
import { OneOf } from "../../ui/OneOf";
import { Button } from "../../ui/parts";
import { Attention, Block } from "../../ui/Worksheet";

/** The plan keeps no more. */
const MOST = 60;

interface Props {
  section: SectionPlan;
  kept: readonly SectionPlan[];
  /** From where to where the part reaches along the section's normal. */
  reach: readonly [number, number];
  disabled: boolean;
  onAdd: (made: SectionPlan[]) => void;
}

/** Repeats a section in equal steps, along it or about an axis. */
export function SectionSeries({ section, kept, reach: [low, high], disabled, onAdd }: Props) {
  const [way, setWay] = useState<SeriesWay>("along");
  const [count, setCount] = useState<number | null>(5);
  const [step, setStep] = useState<number | null>(10);
  // Turned about its own normal a plane stays what it is.
  const ways = axes.filter((a) => a !== axisOf(section));
  const whole = Math.round(count ?? 0);
  const all = whole >= 2 && step ? series(section, whole, way, step, kept) : [];
  const made = way === "along" ? all.filter((s) => offsetOf(s) >= low && offsetOf(s) <= high) : all;
  const fits = kept.length + made.length <= MOST;
  return (
    <Block title="Series">
      <div className="space-y-2">
        <OneOf
          label="In steps"
          options={[
            { value: "along" as SeriesWay, name: "along it" },
            ...ways.map((a) => ({ value: a as SeriesWay, name: `about ${a.toUpperCase()}` })),
          ]}
          value={way}
          onChange={setWay}
        />
        <div className="grid grid-cols-[5rem_7rem_1fr] items-end gap-2">
          <NumberField label="Cuts" value={count} min={2} max={MOST} disabled={disabled} onChange={setCount} />
          <NumberField
            label={way === "along" ? "Step, mm" : "Step, °"}
            value={step}
            disabled={disabled}
            onChange={setStep}
          />
          <Button disabled={disabled || !fits || made.length === 0} onClick={() => onAdd(made)}>
            Cut the series
          </Button>
        </div>
        {made.length < all.length && (
          <p className="text-xs text-soft">
            {plural(all.length - made.length, "cut")} would miss the part and{" "}
            {made.length === all.length - 1 ? "is" : "are"} left out.
          </p>
        )}
        {!fits && (
          <Attention>
            A plan keeps {MOST} sections; this one has {kept.length}.
          </Attention>
        )}
      </div>
    </Block>
  );
}
