import type { PrepareStep, Schemas } from "../../api/client";
import { useBench } from "../../stage/bench";
import { fixed } from "../../ui/format";
import { Check } from "../../ui/parts";
import { Scroll } from "../../ui/Scroll";

const SHOWN = 40;

/** Which holes a step fills: all up to the size, or the ones ticked. Its name leads the stage to a hole. */
export function HoleChoice({
  step,
  holes,
  change,
}: {
  step: Extract<PrepareStep, { kind: "fill" }>;
  holes: Schemas["HoleEntry"][];
  change: (step: PrepareStep) => void;
}) {
  const view = useBench((s) => s.view);
  const small = holes.filter((h) => h.diameter <= (step.maxDiameter ?? 0)).slice(0, SHOWN);
  const centre = (h: Schemas["HoleEntry"]) => [h.center.x ?? 0, h.center.y ?? 0, h.center.z ?? 0];
  const chosen = step.near ?? [];
  const at = (h: Schemas["HoleEntry"]) => {
    const c = centre(h);
    for (let i = 0; i < chosen.length; i += 3) {
      if (c.every((v, k) => v === chosen[i + k])) {
        return i;
      }
    }

    return -1;
  };
  const toggle = (h: Schemas["HoleEntry"]) => {
    const i = at(h);
    const near = i < 0 ? [...chosen, ...centre(h)] : [...chosen.slice(0, i), ...chosen.slice(i + 3)];
    change({ ...step, near: near.length > 0 ? near : null, frame: near.length > 0 ? "scan" : "nominal" });
  };
  return small.length === 0 ? (
    <p className="text-xs text-soft">No hole is that small; the smallest is {fixed(holes.at(-1)?.diameter, 2)} mm.</p>
  ) : (
    <fieldset className="text-xs">
      <legend className="text-soft">
        {step.near ? "Only the ticked holes" : `All ${small.length} holes of that size; tick some to fill only those`}
      </legend>
      <Scroll name="Holes of that size" className="max-h-32">
        <ul className="grid grid-cols-3 gap-x-2">
          {small.map((h, i) => (
            <li key={i} className="flex items-center gap-1">
              <Check name={`Hole ${i + 1}`} checked={at(h) >= 0} onChange={() => toggle(h)} />
              <button
                type="button"
                className="num underline decoration-dotted"
                title="Show on the stage"
                onClick={() => view?.fly(centre(h), view.controls.axes().back.toArray(), Math.max(10, 5 * h.diameter))}
              >
                {fixed(h.diameter, 2)} mm
              </button>
            </li>
          ))}
        </ul>
      </Scroll>
    </fieldset>
  );
}
