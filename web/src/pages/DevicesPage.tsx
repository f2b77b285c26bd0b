import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, take, type Schemas } from "../api/client";
import { useAction, useCancelJob, useFloor, useNominal } from "../api/hooks";
import { describeFace } from "../stations/features/describe";
import { Bar, Button, Field, Input, Select } from "../ui/parts";

type PlantedError = Schemas["PlantedError"];

const kinds: Record<string, string> = {
  radius: "radius larger by",
  offset: "moved outward by",
  bow: "bowed by",
};

/** The simulated scanner: captures a new piece of a part, with planted errors if wanted. */
export function DevicesPage() {
  const floor = useFloor();
  const parts = (floor.data?.parts ?? []).filter((p) => p.nominalId);
  const [chosen, setChosen] = useState("");
  const partId = chosen || parts[0]?.id;
  const nominal = useNominal(partId);
  const pieces = (floor.data?.pieces ?? []).filter((p) => p.partId === partId);
  const highest = Math.max(0, ...pieces.map((p) => Number(p.serial)).filter(Number.isFinite));
  const [serial, setSerial] = useState("");
  const [form, setForm] = useState({
    seed: "21",
    spacing: "0.95",
    noise: "0.008",
    unit: "mm",
    strayPieces: "3",
    tablePatch: true,
  });
  const [errors, setErrors] = useState<PlantedError[]>([]);
  const [jobId, setJobId] = useState<string | null>(null);
  const nextSerial = serial || String(highest + 1).padStart(4, "0");
  const job = useQuery({
    queryKey: ["job", jobId],
    enabled: jobId !== null,
    queryFn: () => take(api.GET("/api/jobs/{id}", { params: { path: { id: jobId! } } })),
  });
  const cancel = useCancelJob();
  const capture = useAction(async () => {
    const started = await take(
      api.POST("/api/captures", {
        body: {
          partId: partId!,
          serial: nextSerial,
          seed: Number(form.seed),
          spacing: Number(form.spacing),
          noise: Number(form.noise),
          unit: form.unit,
          strayPieces: Number(form.strayPieces),
          tablePatch: form.tablePatch,
          errors,
        },
      }),
    );
    setJobId(started.id);
  });
  const running = job.data?.state === "queued" || job.data?.state === "running";
  const captured =
    pieces.find((p) => p.serial === nextSerial) ??
    pieces.find((p) => job.data?.state === "done" && p.serial === serial);
  const put = (change: Partial<typeof form>) => setForm({ ...form, ...change });
  return (
    <div className="h-full overflow-auto">
      <div className="mx-auto max-w-[860px] space-y-4 p-6">
        <h1 className="text-xl font-semibold">Devices</h1>
        <p className="text-soft">
          The simulated scanner stands in for a real one: it samples the nominal from many views, with noise, stray data
          and an unknown pose. The same seed gives the same scan.
        </p>
        {parts.length === 0 && <p className="text-brass">No part has a nominal yet; there is nothing to scan.</p>}
        <form
          className="space-y-4 rounded border border-line bg-panel p-4"
          onSubmit={(e) => {
            e.preventDefault();
            setSerial(nextSerial);
            capture.mutate(undefined);
          }}
        >
          <div className="grid grid-cols-3 gap-3">
            <Field label="Part">
              <Select value={partId ?? ""} onChange={(e) => (setChosen(e.target.value), setErrors([]))}>
                {parts.map((p) => (
                  <option key={p.id} value={p.id}>
                    {p.number} rev {p.revision}
                  </option>
                ))}
              </Select>
            </Field>
            <Field label="Serial number">
              <Input value={serial} placeholder={nextSerial} onChange={(e) => setSerial(e.target.value)} />
            </Field>
            <Field label="Seed">
              <Input type="number" value={form.seed} onChange={(e) => put({ seed: e.target.value })} />
            </Field>
            <Field label="Point spacing, mm">
              <Input
                type="number"
                step="any"
                min="0.2"
                value={form.spacing}
                onChange={(e) => put({ spacing: e.target.value })}
              />
            </Field>
            <Field label="Noise along the line of sight, mm">
              <Input
                type="number"
                step="any"
                min="0"
                value={form.noise}
                onChange={(e) => put({ noise: e.target.value })}
              />
            </Field>
            <Field label="Unit written">
              <Select value={form.unit} onChange={(e) => put({ unit: e.target.value })}>
                {["mm", "cm", "m", "inch"].map((u) => (
                  <option key={u}>{u}</option>
                ))}
              </Select>
            </Field>
            <Field label="Stray pieces">
              <Input
                type="number"
                min="0"
                max="50"
                value={form.strayPieces}
                onChange={(e) => put({ strayPieces: e.target.value })}
              />
            </Field>
            <label className="flex items-center gap-2 self-end pb-1.5">
              <input
                type="checkbox"
                checked={form.tablePatch}
                onChange={(e) => put({ tablePatch: e.target.checked })}
              />{" "}
              A patch of the table
            </label>
          </div>
          <fieldset>
            <legend className="mb-1 text-xs text-soft">Planted manufacturing errors</legend>
            {errors.map((error, i) => (
              <div key={i} className="mb-2 grid grid-cols-[1fr_170px_110px_auto] gap-2">
                <Select
                  aria-label="Face"
                  value={error.faces[0]}
                  onChange={(e) =>
                    setErrors(errors.map((x, k) => (k === i ? { ...x, faces: [Number(e.target.value)] } : x)))
                  }
                >
                  {nominal.data?.faces.map((f) => (
                    <option key={f.id} value={f.id}>
                      {f.id}: {describeFace(f)}
                    </option>
                  ))}
                </Select>
                <Select
                  aria-label="Kind of error"
                  value={error.kind}
                  onChange={(e) => setErrors(errors.map((x, k) => (k === i ? { ...x, kind: e.target.value } : x)))}
                >
                  {Object.entries(kinds).map(([k, name]) => (
                    <option key={k} value={k}>
                      {name}
                    </option>
                  ))}
                </Select>
                <Input
                  aria-label="Size of the error, mm"
                  type="number"
                  step="any"
                  value={error.value}
                  onChange={(e) =>
                    setErrors(errors.map((x, k) => (k === i ? { ...x, value: Number(e.target.value) } : x)))
                  }
                />
                <Button onClick={() => setErrors(errors.filter((_, k) => k !== i))}>Remove</Button>
              </div>
            ))}
            <Button
              disabled={!nominal.data}
              onClick={() =>
                setErrors([
                  ...errors,
                  {
                    kind: "radius",
                    faces: [nominal.data!.faces.find((f) => f.kind === "cylinder")?.id ?? 0],
                    value: 0.02,
                    vector: null,
                  },
                ])
              }
            >
              Plant an error
            </Button>
          </fieldset>
          <div className="flex items-center gap-3">
            <Button type="submit" tone="primary" disabled={!partId || running || capture.isPending}>
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
      </div>
    </div>
  );
}
