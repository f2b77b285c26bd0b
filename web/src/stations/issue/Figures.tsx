import { useState } from "react";
import type { FigurePlan } from "../../api/client";
import { useMay, usePlanEdit } from "../../api/hooks";
import { shownMap } from "../../plan/maps";
import { useBenchOf } from "../../stage/bench";
import { Button, Field, Input } from "../../ui/parts";
import { Block } from "../../ui/Worksheet";
import type { StationProps } from "../types";

/** Figures are kept from the stage in the plan: every piece's report gets them. */
export function Figures({ piece, plan }: Pick<StationProps, "piece" | "plan">) {
  const { view, limits, hideWithin, showEdges, map, set } = useBenchOf(
    "view",
    "limits",
    "hideWithin",
    "showEdges",
    "map",
    "set",
  );
  const [caption, setCaption] = useState("");
  const edit = usePlanEdit(piece.partId);
  const mayWork = useMay("inspector");
  const figures = plan.plan.figures ?? [];
  const shown = piece.run?.compareStage?.deviationsKey;
  const save = (next: FigurePlan[]) =>
    edit.mutate({ basedOn: plan.number, plan: { ...plan.plan, figures: next } }, { onSuccess: () => setCaption("") });
  const keep = () => {
    if (view) {
      save([
        ...figures,
        {
          camera: view.figureCamera(),
          showDeviation: true,
          hideWithin,
          showEdges,
          lower: limits.lower,
          upper: limits.upper,
          map,
          labels: plan.plan.compare?.labels ?? [],
          caption: caption.trim() || (map ? `Map ${map}.` : "Deviation of the scan from the nominal."),
        },
      ]);
    }
  };
  return (
    <Block title="Figures">
      <div className="flex items-end gap-2">
        <div className="flex-1">
          <Field label="Caption">
            <Input
              value={caption}
              maxLength={200}
              onChange={(e) => setCaption(e.target.value)}
              placeholder="What the reader sees"
            />
          </Field>
        </div>
        <Button onClick={keep} disabled={!mayWork || !view || !piece.run?.comparison || edit.isPending}>
          Add figure
        </Button>
      </div>
      <ul className="mt-2 space-y-2">
        {figures.map((f, i) => (
          <li key={i} className="rounded border border-line p-1.5" data-testid="figure">
            {shown && (
              <img
                src={`/api/pieces/${piece.id}/figures/${i}?plan=${plan.number}&of=${shown}`}
                alt={`Figure ${i + 1}: ${f.caption ?? ""}`}
                className="w-full"
              />
            )}
            <div className="mt-1 flex items-center justify-between gap-2">
              <span>
                {i + 1}. {f.caption}
              </span>
              <span className="flex shrink-0 gap-1">
                <Button
                  tone="quiet"
                  onClick={() => {
                    view?.look(f.camera);
                    set({
                      limits: { lower: f.lower ?? -0.2, upper: f.upper ?? 0.2 },
                      map: f.map ?? null,
                      mapLimits: {},
                      onlyFaces: shownMap(plan.plan, f.map ?? null)?.faces ?? [],
                    });
                  }}
                >
                  Show
                </Button>
                <Button
                  tone="quiet"
                  disabled={!mayWork || edit.isPending}
                  onClick={() => save(figures.filter((_, k) => k !== i))}
                >
                  Drop
                </Button>
              </span>
            </div>
          </li>
        ))}
      </ul>
      <p className="mt-2 text-soft">
        {figures.length === 0
          ? "Without figures of your own the report shows the whole part."
          : "Figures are kept in the plan: every piece's report gets them."}
      </p>
    </Block>
  );
}
