import type { FeaturePlan } from "../../api/client";
import { Choice } from "../../ui/Choice";
import { NumberField } from "../../ui/NumberField";
import { Field } from "../../ui/parts";
import { criteriaOf, type CriterionName } from "./FeatureEditor";

interface Props {
  /** Of the first picked face. */
  kind: string;
  /** The edges that the picked faces make, and the one of them that is to be measured instead of the faces. */
  edges: readonly FeaturePlan[];
  edge: FeaturePlan | null;
  onEdge: (edge: FeaturePlan | null) => void;
  criterion: CriterionName;
  onCriterion: (criterion: CriterionName) => void;
  margin: number | null;
  onMargin: (margin: number | null) => void;
}

/** How faces that are picked, and no feature of the plan yet, are to be measured. */
export function PickedForm({ kind, edges, edge, onEdge, criterion, onCriterion, margin, onMargin }: Props) {
  return (
    <div className="mb-2 grid grid-cols-2 gap-2">
      {edges.length > 0 && (
        <div className="col-span-2">
          <Field label="Measured from">
            <Choice
              value={edge?.id ?? null}
              options={[
                { value: null, name: "points on its surface" },
                ...edges.map((e) => ({ value: e.id, name: `the edge of face ${e.edgeOf}: ${e.name}` })),
              ]}
              onChange={(id) => onEdge(edges.find((e) => e.id === id) ?? null)}
            />
          </Field>
        </div>
      )}
      {!edge && (
        <>
          <Field label="Association criterion">
            <Choice
              value={criterion}
              options={criteriaOf(kind).map((value) => ({ value, name: value.replaceAll("-", " ") }))}
              onChange={onCriterion}
            />
          </Field>
          <NumberField label="Edge margin, mm" value={margin} empty="automatic" min={0} onChange={onMargin} />
        </>
      )}
    </div>
  );
}
