import { useEffect, useState } from "react";
import type { PieceView, PlanView, Schemas } from "../../api/client";
import { useAreas } from "../../api/comparison";
import { useBenchOf } from "../../stage/bench";
import { flyToFace } from "../../stage/flight";
import { fixed, plural, signed } from "../../ui/format";
import { Button } from "../../ui/parts";
import { round } from "./round";
import type { ChangePlan } from "./types";

const SHOWN = 20;
const WORST = 5;

/** ms. */
const REST = 250;

/** An area is shown with so many times its own size around it. */
const SPAN = 6;

interface Props {
  piece: PieceView;
  plan: PlanView;
  nominal: Schemas["NominalView"];
  disabled: boolean;
  onChange: ChangePlan;
}

/** Where the deviation lies beyond the band: connected areas, the largest first; picking one flies there. */
export function Areas({ piece, plan, nominal, disabled, onChange }: Props) {
  const { view, limits } = useBenchOf("view", "limits");
  const band = useRested(limits);
  const found = useAreas(piece, { lower: round(band.lower), upper: round(band.upper) });
  const areas = found.data?.areas ?? [];
  const show = (a: Schemas["AreaBeyond"]) => flyToFace(view, nominal.faces[a.face], a.at, SPAN * Math.sqrt(a.area));
  const labelled = new Set((plan.plan.compare?.labels ?? []).map((l) => l.point.join()));
  const worst = [...areas]
    .sort((a, b) => beyondBy(b, band) - beyondBy(a, band))
    .slice(0, WORST)
    .filter((a) => !labelled.has(a.at.join()));
  const label = () =>
    onChange((p) => ({
      ...p,
      compare: {
        ...p.compare!,
        labels: [...(p.compare?.labels ?? []), ...worst.map((a) => ({ point: a.at }))],
      },
    }));
  if (found.error) {
    return <p className="text-bad">{found.error.message}</p>;
  }

  return (
    <>
      <p className="text-soft" role="status">
        {found.data
          ? areas.length === 0
            ? `Nothing lies beyond ${signed(band.lower)} to ${signed(band.upper)} mm.`
            : `${plural(areas.length, "area")} beyond ${signed(band.lower)} to ${signed(band.upper)} mm.`
          : "Looking for areas …"}
      </p>
      {areas.length > 0 && (
        <>
          <table className="w-full" aria-label="Areas beyond the band">
            <thead>
              <tr className="text-left text-xs text-soft">
                <th className="font-normal">farthest, mm</th>
                <th className="text-right font-normal">area, mm²</th>
                <th className="text-right font-normal">face</th>
              </tr>
            </thead>
            <tbody>
              {areas.slice(0, SHOWN).map((a, i) => (
                <tr key={i} className="border-t border-line/60" data-testid="area">
                  <td>
                    <button type="button" className="num py-0.5 underline hover:bg-tint" onClick={() => show(a)}>
                      {signed(a.extreme)}
                    </button>
                    <span className="ml-2 text-xs text-soft">{a.high ? "in excess" : "missing"}</span>
                  </td>
                  <td className="num text-right">{fixed(a.area, 1)}</td>
                  <td className="num text-right">{a.face < 0 ? "–" : a.face}</td>
                </tr>
              ))}
            </tbody>
          </table>
          {areas.length > SHOWN && <p className="text-soft">and {areas.length - SHOWN} smaller ones</p>}
          {worst.length > 0 && (
            <Button disabled={disabled} onClick={label}>
              Label the {worst.length === 1 ? "worst" : `${worst.length} worst`}
            </Button>
          )}
        </>
      )}
    </>
  );
}

/** A value once it has not changed for a moment: a limit that is dragged is not asked for at every step. */
function useRested<T>(value: T): T {
  const [rested, rest] = useState(value);
  useEffect(() => {
    const timer = setTimeout(() => rest(value), REST);
    return () => clearTimeout(timer);
  }, [value]);
  return rested;
}

const beyondBy = (a: Schemas["AreaBeyond"], { lower, upper }: { lower: number; upper: number }) =>
  a.high ? a.extreme - upper : lower - a.extreme;
