import { useState } from "react";
import { api, take, type Schemas } from "../../api/client";
import { usePartJob } from "../../api/partJob";
import { useBenchOf } from "../../stage/bench";
import { usePick } from "../../stage/picking";
import { Choice } from "../../ui/Choice";
import { NumberField } from "../../ui/NumberField";
import { Button, Field } from "../../ui/parts";
import { Attention } from "../../ui/Worksheet";
import { describeFace } from "../features/describe";

type Pick = Schemas["AxisPick"];
type Axes = Schemas["ReferenceAxes"];

const axisNames = ["x", "y", "z", "-x", "-y", "-z"].map((value) => ({
  value,
  name: value.toUpperCase().replace("-", "−"),
}));

/** Which pick the next click on the stage fills. */
type Place = "first" | "second" | number;

const begun: Axes = { first: null, firstAxis: "z", second: null, secondAxis: "x", origin: [], at: [0, 0, 0] };

/** A part without a drawing gets its coordinates from its own surfaces: axes and origin are picked on the reference. */
export function Coordinates({
  partId,
  nominal,
  disabled,
  onSet,
  open,
}: {
  partId: string;
  nominal: Schemas["NominalView"];
  disabled: boolean;
  /** The part stands in other coordinates now. */
  onSet: () => void;
  /** Before the piece is aligned they are what comes next; afterwards they stand folded. */
  open: boolean;
}) {
  const [axes, setAxes] = useState<Axes>(begun);
  const [place, setPlace] = useState<Place | null>(null);
  const { set } = useBenchOf("set");
  const job = usePartJob(partId);
  const origin = axes.origin ?? [];
  const put = (at: Place, pick: Pick | null) =>
    setAxes((now) =>
      typeof at === "number"
        ? {
            ...now,
            origin: [...(now.origin ?? []).slice(0, at), pick, ...(now.origin ?? []).slice(at + 1)].filter(
              (p) => p !== null,
            ),
          }
        : { ...now, [at]: pick },
    );
  const row = (label: string, at: Place, pick: Pick | null | undefined) => {
    const face = pick?.face == null ? null : nominal.faces[pick.face];
    return (
      <div className="flex items-end gap-2" key={label}>
        <div className="min-w-0 flex-1">
          <Field label={label}>
            <Choice
              value={face ? "face" : (pick?.found ?? null)}
              disabled={disabled}
              options={[
                { value: null, name: typeof at === "number" ? "nothing" : "as it is" },
                ...(face ? [{ value: "face", name: `face ${face.id}: ${describeFace(face)}` }] : []),
                { value: "symmetry-plane", name: "the plane of symmetry" },
                { value: "rotation-axis", name: "the axis of rotation" },
              ]}
              onChange={(v) => v !== "face" && put(at, v === null ? null : { found: v as Schemas["FoundShape"] })}
            />
          </Field>
        </div>
        <Button aria-pressed={place === at} disabled={disabled} onClick={() => setPlace(place === at ? null : at)}>
          {place === at ? "Click a face …" : "Pick"}
        </Button>
      </div>
    );
  };
  const named = (label: string, key: "firstAxis" | "secondAxis") => (
    <Field label={label}>
      <Choice
        value={axes[key]}
        disabled={disabled}
        options={axisNames}
        onChange={(axis) => setAxes((now) => ({ ...now, [key]: axis }))}
      />
    </Field>
  );
  return (
    <details open={open}>
      <summary className="cursor-pointer text-xs font-semibold tracking-wide text-soft uppercase">
        Coordinates of the reference
      </summary>
      <div className="mt-1 space-y-2" data-testid="coordinates">
        <p className="text-xs text-soft">
          A scan has the coordinates of its device. Pick the surfaces along which this part has its own; what is not
          picked stays as it is.
        </p>
        {row("First axis along", "first", axes.first)}
        {row("Second axis towards", "second", axes.second)}
        <div className="grid grid-cols-2 gap-2">
          {named("The first is", "firstAxis")}
          {named("The second is", "secondAxis")}
        </div>
        {row("Origin on", 0, origin[0])}
        {origin.length > 0 && row("and on", 1, origin[1])}
        {origin.length > 1 && row("and also on", 2, origin[2])}
        <div className="grid grid-cols-3 gap-2">
          {["x", "y", "z"].map((axis, k) => (
            <NumberField
              key={axis}
              label={`Its ${axis}, mm`}
              value={axes.at[k]}
              disabled={disabled}
              onChange={(v) => setAxes((now) => ({ ...now, at: now.at.map((old, i) => (i === k ? (v ?? 0) : old)) }))}
            />
          ))}
        </div>
        {place !== null && (
          <FacePick
            onPick={(face) => {
              put(place, { face });
              setPlace(null);
            }}
          />
        )}
        {job.error && <Attention>{job.error}</Attention>}
        <Button
          disabled={disabled || job.running || (!axes.first && !axes.second && origin.length === 0)}
          onClick={() =>
            job.start(
              () => take(api.POST("/api/parts/{id}/nominal/axes", { params: { path: { id: partId } }, body: axes })),
              () => {
                setAxes(begun);
                set({ faces: [] });
                onSet();
              },
            )
          }
        >
          {job.running ? "Laying the axes …" : "Set these coordinates"}
        </Button>
      </div>
    </details>
  );
}

/** While it is there, a click on a face of the stage goes to it. */
function FacePick({ onPick }: { onPick: (face: number) => void }) {
  const { set } = useBenchOf("set");
  usePick((hit) => {
    if (hit?.face != null) {
      set({ faces: [hit.face] });
      onPick(hit.face);
    }
  });
  return null;
}
