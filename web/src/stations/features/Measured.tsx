import type { MeasuredFeature } from "../../api/client";
import { count, fixed, percent, signed } from "../../ui/format";
import { Facts } from "../../ui/parts";
import { beside, parameters } from "./describe";

/** A feature measured just now, beside its nominal, with its evidence. */
export function Measured({
  feature,
  residuals,
  missing,
}: {
  feature: MeasuredFeature;
  residuals: number[];
  missing: number;
}) {
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
      {residuals.length > 0 && <Residuals values={residuals} />}
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
          !feature.construction && ["edge margin", `${fixed(feature.edgeMargin, 2)} mm`],
          !feature.construction && ["scatter of residuals", `${fixed(feature.scatter, 4)} mm`],
          !feature.construction && ["form (greatest − least)", `${fixed(feature.form, 4)} mm`],
          feature.radiusSigma > 0 && ["U of the diameter, k = 2", `${fixed(4 * feature.radiusSigma, 5)} mm`],
          ["U of the place, k = 2", `${fixed(2 * feature.positionSigma, 5)} mm`],
          feature.directionSigma > 0 && [
            "U of the direction, k = 2",
            `${fixed((2 * feature.directionSigma * 180) / Math.PI, 4)}°`,
          ],
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
