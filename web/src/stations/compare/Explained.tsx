import { useState } from "react";
import type { PieceView, PlanView, Schemas } from "../../api/client";
import { useExplanation } from "../../api/comparison";
import { mapOfRest, usualParts, type ExplainedPart } from "../../plan/explained";
import { withMaps } from "../../plan/maps";
import { middleAndReach } from "../../stage/firstView";
import { useBenchOf } from "../../stage/bench";
import { flyToFace } from "../../stage/flight";
import { fixed, plural, signed } from "../../ui/format";
import { Button, Check } from "../../ui/parts";
import { Block } from "../../ui/Worksheet";
import { TakenOut } from "./TakenOut";
import type { ChangePlan } from "./types";

const SHOWN = 12;

/** mm. */
const LEAST_SAID = 0.0005;

/** Faces are shown with so many times their own size around them. */
const SPAN = 3;

/** The worst place of a face is shown with so much around it, mm. */
const AROUND = 50;

interface Props {
  piece: PieceView;
  plan: PlanView;
  nominal: Schemas["NominalView"];
  disabled: boolean;
  onChange: ChangePlan;
  /** Goes to the map that is shown now. */
  onMap: () => void;
}

/** What the deviation is made of: errors of the whole part, then of faces, each with its uncertainty, and what is left. */
export function Explained({ piece, plan, nominal, disabled, onChange, onMap }: Props) {
  const { view, set } = useBenchOf("view", "set");
  const [without, setWithout] = useState<readonly ExplainedPart[]>(usualParts);
  const found = useExplanation(piece, plan.number);
  if (found.error) {
    return <p className="text-bad">{found.error.message}</p>;
  }

  if (!found.data) {
    return (
      <p className="text-soft" role="status">
        Taking the deviation apart …
      </p>
    );
  }

  const told = found.data;
  const show = (faces: readonly number[]) => {
    const { middle, reach } = middleAndReach(faces.map((f) => nominal.faces[f]));
    flyToFace(view, nominal.faces[faces[0]], middle, SPAN * reach);
  };
  const showRest = () => {
    const { map, isNew } = mapOfRest(plan.plan, without);
    const look = () => {
      set({ map: map.name ?? null, mapLimits: {}, onlyFaces: [] });
      onMap();
    };
    if (isNew) {
      onChange((p) => withMaps(p, (all) => [...all, map]), { onSuccess: look });
    } else {
      look();
    }
  };
  const steps = Object.fromEntries(told.steps.map((s) => [s.part, s.left])) as Partial<Record<ExplainedPart, number>>;
  const left = { whole: told.rms, after: steps };
  const named = new Set(told.findings.flatMap((f) => f.faces));
  const worst = told.faces
    .filter((f) => named.has(f.errors.face))
    .sort((a, b) => Math.abs(b.errors.worst) - Math.abs(a.errors.worst))
    .slice(0, SHOWN);
  return (
    <>
      <p className="text-soft" role="status">
        {told.findings.length === 0
          ? `Nothing stands out of its uncertainty: the deviation of ${fixed(told.rms, 4)} mm (RMS) is noise and waves.`
          : `${plural(told.findings.length, "error")} ${told.findings.length === 1 ? "stands" : "stand"} out of ${
              told.findings.length === 1 ? "its" : "their"
            } uncertainty.`}
      </p>
      {told.findings.length > 0 && (
        <ul className="space-y-1.5" aria-label="What the deviation is made of">
          {told.findings.map((f) => (
            <li key={f.words} data-testid="finding">
              {f.faces.length > 0 ? (
                <button type="button" className="text-left underline hover:bg-tint" onClick={() => show(f.faces)}>
                  {f.words}
                </button>
              ) : (
                f.words
              )}
            </li>
          ))}
        </ul>
      )}
      <Block title="What is left, mm RMS">
        <div className="mb-1 grid grid-cols-[1fr_5rem_4rem] gap-2">
          <span>The whole deviation</span>
          <span className="h-2 self-center bg-brass" aria-hidden />
          <span className="num text-right text-xs">{fixed(told.rms, 4)}</span>
        </div>
        <p className="text-xs text-soft">
          Taken out one after the other; those ticked are out of the map of what is left.
        </p>
        <TakenOut parts={without} left={left} onChange={setWithout} />
        <Button className="mt-2" disabled={without.length === 0 || disabled} onClick={showRest}>
          Map of what is left
        </Button>
      </Block>
      {worst.length > 0 && (
        <Block title="Face by face, mm, the whole part's errors out">
          <table className="w-full text-xs" aria-label="Errors of faces">
            <thead>
              <tr className="text-right text-soft">
                <th className="font-normal">height</th>
                <th className="font-normal">moved</th>
                <th className="font-normal">lean, °</th>
                <th className="font-normal">bow</th>
                <th className="font-normal">waves</th>
                <th className="font-normal">worst</th>
              </tr>
            </thead>
            {worst.map(({ name, errors: e }) => (
              <tbody key={e.face} className="border-t border-line/60 align-top">
                <tr>
                  <th colSpan={6} className="pt-0.5 text-left font-normal">
                    <button
                      type="button"
                      className="text-left underline hover:bg-tint"
                      onClick={() => flyToFace(view, nominal.faces[e.face], e.at, AROUND)}
                    >
                      {name}
                    </button>
                  </th>
                </tr>
                <tr>
                  <Number found={e.offset} sign />
                  <Number found={e.shift} />
                  <Number found={e.turn} />
                  <Number found={e.bow} sign />
                  <td className="num pl-1 text-right">{fixed(e.left)}</td>
                  <td className="num pl-1 text-right">{signed(e.worst)}</td>
                </tr>
              </tbody>
            ))}
          </table>
          <p className="mt-1 text-xs text-soft">
            {worst.length < named.size && `${plural(named.size - worst.length, "face")} with less. `}
            {told.usual >= LEAST_SAID
              ? `Beyond all this, faces differ by ${fixed(told.usual, 4)} mm.`
              : "Beyond all this, faces differ by no more than the device can tell."}
          </p>
        </Block>
      )}
      <Check
        checked={plan.plan.compare?.explain ?? false}
        disabled={disabled}
        onChange={(explain) => onChange((p) => ({ ...p, compare: { ...p.compare!, explain } }))}
      >
        In the report of every piece
      </Check>
    </>
  );
}

/** A value with its uncertainty; a dash where it does not stand out of it. */
function Number({ found, sign }: { found: Schemas["Found"]; sign?: boolean }) {
  const stands = Math.abs(found.value) > found.u;
  return (
    <td className="num pl-1 text-right whitespace-nowrap">
      {stands ? (sign ? signed : fixed)(found.value) : "–"}
      {stands && <span className="block text-soft">± {fixed(found.u)}</span>}
    </td>
  );
}
