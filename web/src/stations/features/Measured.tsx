import type { MeasuredFeature, Schemas } from "../../api/client";
import { count, fixed, percent, signed } from "../../ui/format";
import { Facts } from "../../ui/parts";
import { Residuals } from "./Residuals";
import { PatternTable } from "./PatternTable";
import { beside, parameters } from "./describe";

/** A feature measured just now, beside its nominal, with its evidence. */
export function Measured({
  feature,
  residuals,
  map,
  missing,
  nameOf,
}: {
  feature: MeasuredFeature;
  residuals: number[];
  map: Schemas["ResidualMap"] | null;
  missing: number;
  /** What a feature of the plan is called. */
  nameOf: (id: string) => string;
}) {
  const ofEdge = feature.plan.edgeOf != null;
  const onSurface = !feature.construction && !ofEdge;
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
      {feature.pattern && <PatternTable pattern={feature.pattern} nameOf={nameOf} />}
      {residuals.length > 0 && <Residuals values={residuals} map={map} />}
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
          [ofEdge ? "coverage of the edge" : "coverage inside the margin", percent(feature.coverage)],
          onSurface && [
            "edge margin",
            feature.marginCutFrom === null
              ? `${fixed(feature.edgeMargin, 2)} mm`
              : `${fixed(feature.edgeMargin, 2)} mm, cut from ${fixed(feature.marginCutFrom, 2)}: the face is narrow`,
          ],
          !feature.construction && [
            ofEdge ? "scatter of the points along the edge" : "scatter of residuals",
            `${fixed(feature.scatter, 4)} mm`,
          ],
          onSurface && ["form (greatest − least)", `${fixed(feature.form, 4)} mm`],
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
