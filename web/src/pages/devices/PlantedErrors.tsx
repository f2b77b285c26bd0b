import type { FaceView, Schemas } from "../../api/client";
import { describeFace } from "../../stations/features/describe";
import { Button, Input } from "../../ui/parts";
import { Choice } from "../../ui/Choice";

export type PlantedError = Schemas["PlantedError"];

const kinds: Record<string, string> = {
  radius: "radius larger by, mm",
  offset: "moved outward by, mm",
  bow: "bowed by, mm",
  worn: "worn by up to, mm",
  warp: "ends raised by, mm",
  shrunk: "smaller by, %",
};

/** Kinds that concern the whole part rather than a face. */
const whole = ["warp", "shrunk"];

/** Manufacturing errors the simulated part has: the truth a measurement is judged against. */
export function PlantedErrors({
  faces,
  errors,
  onChange,
}: {
  faces: FaceView[];
  errors: PlantedError[];
  onChange: (errors: PlantedError[]) => void;
}) {
  const change = (index: number, to: Partial<PlantedError>) =>
    onChange(errors.map((e, i) => (i === index ? { ...e, ...to } : e)));
  const first = faces.find((f) => f.kind === "cylinder")?.id ?? 0;
  return (
    <fieldset>
      <legend className="mb-1 text-xs text-soft">Planted manufacturing errors</legend>
      {errors.map((error, i) => (
        <div key={i} className="mb-2 grid grid-cols-[1fr_190px_110px_auto] gap-2">
          <Choice
            aria-label="Face"
            value={error.faces[0] ?? null}
            disabled={whole.includes(error.kind)}
            options={[
              ...(whole.includes(error.kind) ? [{ value: null, name: "the whole part" }] : []),
              ...faces.map((f) => ({ value: f.id, name: `${f.id}: ${describeFace(f)}` })),
            ]}
            onChange={(face) => change(i, { faces: face === null ? [] : [face] })}
          />
          <Choice
            aria-label="Kind of error"
            value={error.kind}
            options={Object.entries(kinds).map(([value, name]) => ({ value, name }))}
            onChange={(kind) =>
              change(i, { kind, faces: whole.includes(kind) ? [] : error.faces.length > 0 ? error.faces : [first] })
            }
          />
          <Input
            aria-label="Size of the error"
            type="number"
            step="any"
            value={error.value}
            onChange={(e) => change(i, { value: Number(e.target.value) })}
          />
          <Button onClick={() => onChange(errors.filter((_, k) => k !== i))}>Remove</Button>
        </div>
      ))}
      <Button
        disabled={faces.length === 0}
        onClick={() => onChange([...errors, { kind: "radius", faces: [first], value: 0.02, vector: null }])}
      >
        Plant an error
      </Button>
    </fieldset>
  );
}
