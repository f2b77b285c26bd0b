import { useEffect, useState } from "react";
import { api, take, type FeaturePlan, type MeasuredFeature } from "../../api/client";
import { useAction, usePlanEdit } from "../../api/hooks";
import { useBench } from "../../stage/bench";
import { count, fixed, percent, signed } from "../../ui/format";
import { Button, Facts, Field, Input, Select } from "../../ui/parts";
import { Attention, Block, Worksheet } from "../../ui/Worksheet";
import type { StationProps } from "../types";
import { beside, describeFace, parameters } from "./describe";

type CriterionName = FeaturePlan["criterion"];

const criteria: Record<string, CriterionName[]> = {
  plane: ["least-squares", "minimum-zone", "outer-tangent"],
  cylinder: ["least-squares", "minimum-zone", "minimum-circumscribed", "maximum-inscribed"],
  sphere: ["least-squares", "minimum-zone", "minimum-circumscribed", "maximum-inscribed"],
};

/** Clicking a face of the nominal measures it. */
export function Features({ piece, plan, nominal, busy, start }: StationProps) {
  const { faces, measured, set } = useBench();
  const [criterion, setCriterion] = useState<CriterionName>("least-squares");
  const [margin, setMargin] = useState("");
  const edit = usePlanEdit(piece.partId);
  const compared = piece.run?.comparison != null;
  const chosen = faces.map((f) => nominal?.faces[f]).filter((f) => f !== undefined);
  const first = chosen[0];
  const known = (plan.plan.features ?? []).find((f) => [...f.faces].sort().join() === [...faces].sort().join());
  const measure = useAction(async (feature: FeaturePlan) => {
    const found = await take(
      api.POST("/api/pieces/{id}/measure", { params: { path: { id: piece.id } }, body: { feature } }),
    );
    set({ measured: found, evidence: found.evidence });
  });
  const { mutate, error } = measure;
  const formed: FeaturePlan = {
    id: "picked",
    name: first ? describeFace(first) : "",
    faces,
    criterion,
    edgeMargin: margin === "" ? null : Number(margin),
    searchDistance: 1,
  };
  // A feature of the plan is measured as the plan says, anything else as the form does; again when what it is measured on is another.
  const wanted = faces.length > 0 && compared && nominal ? JSON.stringify(known ?? formed) : null;
  const measuredOn = piece.run?.compareStage?.deviationsKey;
  useEffect(() => {
    set({ measured: null, evidence: null });
    if (wanted) {
      mutate(JSON.parse(wanted) as FeaturePlan);
    }
  }, [wanted, measuredOn, mutate, set]);
  useEffect(() => () => set({ measured: null, evidence: null }), [set]);

  const add = () => {
    const features = plan.plan.features ?? [];
    const base = `${first!.kind}-${first!.id}`;
    const id = features.some((f) => f.id === base) ? `${base}-${features.length}` : base;
    edit.mutate({
      basedOn: plan.number,
      plan: {
        ...plan.plan,
        features: [...features, { ...formed, id }],
      },
    });
  };
  const rows = (piece.run?.features ?? []) as MeasuredFeature[];
  return (
    <Worksheet
      title="Features"
      lead={
        compared
          ? "Click a face of the nominal to measure it. Shift-click adds a face of the same surface."
          : "Align and compare the scan first; then faces can be measured."
      }
      action={
        compared ? (
          <Button
            tone="primary"
            className="flex-1"
            disabled={!first || !measured || known !== undefined || edit.isPending}
            onClick={add}
          >
            {known ? `In the plan as “${known.name}”` : "Add to the plan"}
          </Button>
        ) : (
          <Button tone="primary" className="flex-1" disabled={busy || !nominal} onClick={() => start("run-plan")}>
            Run plan
          </Button>
        )
      }
    >
      {first && (
        <Block title={`Face ${faces.join(", ")}`}>
          <p className="mb-2 font-semibold">{describeFace(first)}</p>
          {known && (
            <p className="mb-2" data-testid="own-method">
              Measured as the plan says: {(known.criterion ?? "least-squares").replace("-", " ")}, edge margin{" "}
              {known.edgeMargin == null ? "automatic" : `${known.edgeMargin} mm`}.
            </p>
          )}
          <div className="mb-2 grid grid-cols-2 gap-2" hidden={known !== undefined}>
            <Field label="Association criterion">
              <Select value={criterion} onChange={(e) => setCriterion(e.target.value as CriterionName)}>
                {(criteria[first.kind] ?? ["least-squares"]).map((c) => (
                  <option key={c} value={c}>
                    {c?.replace("-", " ")}
                  </option>
                ))}
              </Select>
            </Field>
            <Field label="Edge margin, mm">
              <Input
                inputMode="decimal"
                placeholder="automatic"
                value={margin}
                onChange={(e) => /^\d*\.?\d*$/.test(e.target.value) && setMargin(e.target.value)}
              />
            </Field>
          </div>
          {measured && (
            <Measured
              feature={measured.feature as MeasuredFeature}
              residuals={measured.residuals}
              missing={measured.evidence.missing.length / 3}
            />
          )}
          {measure.isPending && <p role="status">Measuring …</p>}
          {error && !measured && <Attention>{error.message}</Attention>}
        </Block>
      )}
      <Block title={`In the plan: ${plan.plan.features?.length ?? 0}`}>
        <ul>
          {(plan.plan.features ?? []).map((f) => {
            const row = rows.find((r) => r.plan.id === f.id);
            return (
              <li key={f.id} className="border-t border-line/60">
                <button
                  type="button"
                  className="flex w-full justify-between gap-2 py-1 text-left hover:bg-tint"
                  onClick={() => set({ faces: [...f.faces] })}
                >
                  <span>{f.name}</span>
                  <span className={row?.failure ? "text-bad" : "num text-soft"}>
                    {row ? (row.failure ? "not measured" : `${count(row.used)} pts`) : "–"}
                  </span>
                </button>
              </li>
            );
          })}
        </ul>
      </Block>
    </Worksheet>
  );
}

function Measured({ feature, residuals, missing }: { feature: MeasuredFeature; residuals: number[]; missing: number }) {
  const nominal = parameters(feature.kind, beside(feature.kind, feature.nominal, feature.measured));
  return (
    <div data-testid="measured-feature">
      <table className="mb-2 w-full text-right">
        <thead className="text-xs text-soft">
          <tr>
            <th />
            <th className="font-normal">measured</th>
            <th className="font-normal">nominal</th>
          </tr>
        </thead>
        <tbody className="num">
          {parameters(feature.kind, feature.measured).map(([name, value, decimals], i) => (
            <tr key={name} className="border-t border-line/60">
              <td className="py-0.5 text-left font-sans">{name}</td>
              <td className="font-semibold">{fixed(value, decimals)}</td>
              <td className="text-soft">{fixed(nominal[i]?.[1], decimals)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <Residuals values={residuals} />
      <Facts
        rows={[
          ["points used", count(feature.used)],
          missing > 0 && ["places not measured (squares)", count(missing)],
          [
            "isolated points left out (rings)",
            feature.leftOut.count > 0
              ? `${count(feature.leftOut.count)}, ${fixed(feature.leftOut.area, 2)} mm², up to ${signed(feature.leftOut.extreme, 3)} mm`
              : "none",
          ],
          ["coverage inside the margin", percent(feature.coverage)],
          ["edge margin", `${fixed(feature.edgeMargin, 2)} mm`],
          ["scatter of residuals", `${fixed(feature.scatter, 4)} mm`],
          ["form (greatest − least)", `${fixed(feature.form, 4)} mm`],
          feature.radiusSigma > 0 && ["U of the diameter, k = 2", `${fixed(4 * feature.radiusSigma, 5)} mm`],
          ["U of the place, k = 2", `${fixed(2 * feature.positionSigma, 5)} mm`],
        ]}
      />
      <p className="mt-1 text-xs text-soft">
        U here is from scatter and geometry; the plan adds the device's length error.
      </p>
    </div>
  );
}

/** Histogram of the residuals: the picture of how the points lie about the fitted feature. */
function Residuals({ values }: { values: number[] }) {
  const [low, high] = values.reduce(([a, b], v) => [Math.min(a, v), Math.max(b, v)], [Infinity, -Infinity]);
  const bins = new Array<number>(40).fill(0);
  for (const v of values) {
    bins[Math.min(39, Math.floor(((v - low) / Math.max(1e-12, high - low)) * 40))]++;
  }

  const most = Math.max(...bins);
  return (
    <figure className="mb-2">
      <svg viewBox="0 0 320 56" className="w-full" role="img" aria-label="Histogram of the residuals">
        {bins.map((n, i) => (
          <rect
            key={i}
            x={8 * i}
            width="7"
            y={54 - (50 * n) / most}
            height={(50 * n) / most}
            fill="var(--indigo)"
            opacity="0.7"
          />
        ))}
        <line x1="0" x2="320" y1="54.5" y2="54.5" stroke="var(--line)" />
      </svg>
      <figcaption className="num flex justify-between text-xs text-soft">
        <span>{fixed(low, 4)}</span>
        <span className="font-sans">residuals, mm</span>
        <span>{fixed(high, 4)}</span>
      </figcaption>
    </figure>
  );
}
