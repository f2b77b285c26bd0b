import type { Schemas } from "../../api/client";
import { fixed, signed } from "../../ui/format";

/** A pattern as measured: its step, and each place against the ideal one. */
export function PatternTable({
  pattern: p,
  nameOf,
}: {
  pattern: Schemas["PatternReading"];
  nameOf: (id: string) => string;
}) {
  const unit = p.isAngle ? "°" : " mm";
  const worst = Math.max(...p.places.map((x) => Math.hypot(x.along, x.across)));
  return (
    <div className="mb-2" data-testid="pattern">
      <p>
        From place to place{" "}
        <span className="num font-semibold">
          {fixed(p.step, 4)}
          {unit}
        </span>{" "}
        <span className="num text-soft">
          ± {fixed(2 * p.stepSigma, 4)}, nominal {fixed(p.nominalStep, 4)}
        </span>
      </p>
      <table className="mt-1 w-full text-right">
        <caption className="text-left text-xs text-soft">Each place against the ideal pattern, mm</caption>
        <thead className="text-xs text-soft">
          <tr>
            <th />
            <th className="font-normal">{p.isAngle ? "along the ring" : "along the row"}</th>
            <th className="font-normal">{p.isAngle ? "outwards" : "off the row"}</th>
          </tr>
        </thead>
        <tbody className="num">
          {p.places.map((x) => (
            <tr
              key={x.feature}
              className={`border-t border-line/60 ${Math.hypot(x.along, x.across) === worst ? "font-semibold" : ""}`}
            >
              <td className="max-w-40 truncate py-0.5 text-left font-sans">{nameOf(x.feature)}</td>
              <td>{signed(x.along, 4)}</td>
              <td>{p.isAngle ? signed(x.across, 4) : fixed(x.across, 4)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
