import { Clipboard } from "lucide-react";
import type { MeasuredFeature } from "../../api/client";
import type { PlanFeature } from "../../plan/features";
import { fixed } from "../../ui/format";
import { say } from "../../ui/notices";
import { Named } from "../../ui/parts";
import { Block } from "../../ui/Worksheet";
import { asTable, mainNumber } from "./describe";

interface Props {
  features: readonly PlanFeature[];
  rows: readonly MeasuredFeature[];
  picked: readonly string[];
  onPick: (id: string, extend: boolean) => void;
}

/** The features of the plan with what was measured of each. Shift picks more than one, to construct from them. */
export function FeatureList({ features, rows, picked, onPick }: Props) {
  const rowOf = (id: string) => rows.find((r) => r.plan.id === id);
  const copy = () =>
    navigator.clipboard.writeText(asTable(features, rowOf)).then(
      () => say(`${features.length} features are copied as a table.`),
      () => say("The browser does not let the table be copied.", "bad"),
    );
  return (
    <Block title={`Features of the plan: ${features.length}`}>
      <ul aria-label="Features">
        {features.map((f) => {
          const row = rowOf(f.id);
          const number = row && !row.failure ? mainNumber(row) : null;
          return (
            <li key={f.id} className="border-t border-line/60">
              <button
                type="button"
                aria-pressed={picked.includes(f.id)}
                title={row?.failure ?? undefined}
                className="grid w-full grid-cols-[1fr_auto] gap-x-2 py-1 text-left hover:bg-tint aria-pressed:bg-tint"
                onClick={(e) => onPick(f.id, e.shiftKey || e.ctrlKey)}
              >
                <span className={f.construction ? "italic" : ""}>{f.name}</span>
                {row?.failure ? (
                  <span className="text-bad">not measured</span>
                ) : (
                  <span className="num text-soft">
                    {number ? (
                      <>
                        {number.sign}
                        {fixed(number.value, 3)} ± {fixed(number.u, 4)}
                      </>
                    ) : row ? (
                      `± ${fixed(2 * row.positionSigma, 4)}`
                    ) : (
                      "–"
                    )}
                  </span>
                )}
              </button>
            </li>
          );
        })}
      </ul>
      {rows.length > 0 && (
        <Named name="Copy all with nominals, deviations, U and coverage, for a spreadsheet">
          <button type="button" className="mt-1 inline-flex items-center gap-1 text-indigo underline" onClick={copy}>
            <Clipboard size={14} aria-hidden /> Copy as a table
          </button>
        </Named>
      )}
    </Block>
  );
}
