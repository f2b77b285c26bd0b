import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useForm } from "react-hook-form";
import { Link } from "react-router";
import { api, take } from "../../api/client";
import { useAction, useCancelJob, useFloor, useNominal, usePieces } from "../../api/hooks";
import { CheckField, ChoiceField } from "../../ui/forms";
import { Bar, Button, Field, Input } from "../../ui/parts";
import { PlantedErrors, type PlantedError } from "./PlantedErrors";
import { Choice, fileUnits } from "../../ui/Choice";

const devices = ["all-round", "turntable", "structured-light", "laser-line"].map((value) => ({
  value,
  name: value.replace("-", " "),
}));

const start = {
  seed: 21,
  spacing: 0.95,
  noise: 0.008,
  noiseGrowth: 0,
  coat: 0,
  misregistration: 0,
  narrowestFace: 0,
  strayPieces: 3,
  unit: "mm",
  device: "all-round",
  tablePatch: true,
  fixture: false,
  cloud: false,
};

type Form = typeof start;
type NumberKey =
  "seed" | "spacing" | "noise" | "noiseGrowth" | "coat" | "misregistration" | "narrowestFace" | "strayPieces";
type SwitchKey = "tablePatch" | "fixture" | "cloud";

const numbers: { key: NumberKey; label: string; min: number; whole?: boolean }[] = [
  { key: "seed", label: "Seed", min: 0, whole: true },
  { key: "spacing", label: "Point spacing, mm", min: 0.2 },
  { key: "noise", label: "Noise along the line of sight, mm", min: 0 },
  { key: "noiseGrowth", label: "Noise grows with incidence, power", min: 0 },
  { key: "misregistration", label: "Views off each other by, mm", min: 0 },
  { key: "coat", label: "Spray coat, mm", min: 0 },
  { key: "narrowestFace", label: "No data on faces narrower than, mm", min: 0 },
  { key: "strayPieces", label: "Stray pieces", min: 0, whole: true },
];

const switches: { key: SwitchKey; label: string }[] = [
  { key: "tablePatch", label: "A patch of the table" },
  { key: "fixture", label: "Three posts of a fixture" },
  { key: "cloud", label: "Points only (XYZ)" },
];

/** The simulated scanner: captures a new piece of a part, with planted errors if wanted. */
export function CaptureForm() {
  const floor = useFloor();
  const parts = (floor.data?.parts ?? []).filter((p) => p.nominalId);
  const [chosen, setChosen] = useState("");
  const partId = chosen || parts[0]?.id;
  const nominal = useNominal(partId);
  const pieces = usePieces("all", "", partId || undefined).data?.pages[0]?.pieces ?? [];
  const highest = Math.max(0, ...pieces.map((p) => Number(p.serial)).filter(Number.isFinite));
  const [serial, setSerial] = useState("");
  const { register, control, handleSubmit, formState } = useForm<Form>({ mode: "onChange", defaultValues: start });
  const [errors, setErrors] = useState<PlantedError[]>([]);
  const [jobId, setJobId] = useState<string | null>(null);
  const nextSerial = serial || String(highest + 1).padStart(4, "0");
  const job = useQuery({
    queryKey: ["job", jobId],
    enabled: jobId !== null,
    queryFn: () => take(api.GET("/api/jobs/{id}", { params: { path: { id: jobId! } } })),
  });
  const cancel = useCancelJob();
  const capture = useAction(async (form: Form) => {
    const started = await take(
      api.POST("/api/captures", { body: { ...form, partId: partId!, serial: nextSerial, errors } }),
    );
    setJobId(started.id);
  });
  const running = job.data?.state === "queued" || job.data?.state === "running";
  const captured =
    pieces.find((p) => p.serial === nextSerial) ??
    pieces.find((p) => job.data?.state === "done" && p.serial === serial);
  return (
    <>
      {parts.length === 0 && <p className="text-brass">No part has a nominal yet; there is nothing to scan.</p>}
      <form
        className="space-y-4 rounded border border-line bg-panel p-4"
        onSubmit={(e) =>
          void handleSubmit((form) => {
            setSerial(nextSerial);
            capture.mutate(form);
          })(e)
        }
      >
        <div className="grid grid-cols-3 gap-3">
          <Field label="Part">
            <Choice
              value={partId ?? ""}
              options={parts.map((p) => ({ value: p.id, name: `${p.number} rev ${p.revision}` }))}
              onChange={(id) => (setChosen(id), setErrors([]))}
            />
          </Field>
          <Field label="Serial number">
            <Input value={serial} placeholder={nextSerial} onChange={(e) => setSerial(e.target.value)} />
          </Field>
          <ChoiceField label="Device" name="device" control={control} options={devices} />
          {numbers.map((n) => (
            <Field key={n.key} label={n.label} error={formState.errors[n.key]?.message}>
              <Input
                {...register(n.key, {
                  valueAsNumber: true,
                  min: { value: n.min, message: `At least ${n.min}.` },
                  validate: (value) =>
                    n.whole
                      ? Number.isInteger(value) || "A whole number."
                      : Number.isFinite(value) || "A number is needed.",
                })}
                type="number"
                step="any"
              />
            </Field>
          ))}
          <ChoiceField label="Unit written" name="unit" control={control} options={fileUnits} />
        </div>
        <div className="flex flex-wrap gap-x-6 gap-y-1">
          {switches.map((x) => (
            <CheckField key={x.key} name={x.key} control={control}>
              {x.label}
            </CheckField>
          ))}
        </div>
        <PlantedErrors faces={nominal.data?.faces ?? []} errors={errors} onChange={setErrors} />
        <div className="flex items-center gap-3">
          <Button type="submit" tone="primary" disabled={!partId || !formState.isValid || running || capture.isPending}>
            Capture a piece
          </Button>
          {job.data && (
            <div className="flex flex-1 items-center gap-3">
              <div className="flex-1">
                <Bar share={job.data.share} label="Capture" />
              </div>
              <span role="status">{job.data.error ?? job.data.what}</span>
              {running && <Button onClick={() => cancel.mutate(job.data!.id)}>Cancel</Button>}
              {job.data.state === "done" && captured && (
                <Link className="text-indigo underline" to={`/pieces/${captured.id}/receive`}>
                  Open piece {captured.serial}
                </Link>
              )}
            </div>
          )}
        </div>
      </form>
    </>
  );
}
