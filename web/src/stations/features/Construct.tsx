import { useState } from "react";
import type { ConstructionPlan, InspectionPlan } from "../../api/client";
import { useConstructions } from "../../api/hooks";
import { constructionKind, usersOf, type PlanFeature } from "../../plan/features";
import { StandsIn } from "../../plan/StandsIn";
import { usePick } from "../../stage/picking";
import { NumberField, TextField } from "../../ui/NumberField";
import { Button, Check, offerButton } from "../../ui/parts";
import { Attention, Block } from "../../ui/Worksheet";

/** What the picked features can make; a click makes it. */
export function Construct({
  partId,
  planNumber,
  picked,
  disabled,
  onMake,
}: {
  partId: string;
  planNumber: number;
  picked: readonly PlanFeature[];
  disabled: boolean;
  onMake: (construction: ConstructionPlan) => void;
}) {
  const offers = useConstructions(
    partId,
    planNumber,
    picked.map((f) => f.id),
  );
  return (
    <Block title="Construct">
      {picked.length === 0 ? (
        <p className="text-xs text-soft">
          Pick features in the table under the stage, Shift for more than one: what they can make is offered here.
        </p>
      ) : (
        <>
          <p className="mb-1 text-xs text-soft">From {picked.map((f) => f.name).join(", ")}:</p>
          {offers.isPending && <p role="status">Looking what they make …</p>}
          {offers.error && <Attention>{offers.error.message}</Attention>}
          {offers.data?.length === 0 && <p className="text-xs">Nothing follows from these.</p>}
          <ul className="space-y-1" data-testid="constructions">
            {offers.data?.map(({ construction, nominal }) => (
              <li key={construction.kind}>
                <button type="button" disabled={disabled} className={offerButton} onClick={() => onMake(construction)}>
                  <span className="font-semibold">{constructionKind(construction.kind).name}</span>
                  <span className="num text-right text-xs text-soft">{nominal}</span>
                </button>
              </li>
            ))}
          </ul>
        </>
      )}
    </Block>
  );
}

/** A construction of the plan: its name and its number. */
export function ConstructionEditor({
  construction: c,
  plan,
  disabled,
  onChange,
}: {
  construction: ConstructionPlan;
  plan: InspectionPlan;
  disabled: boolean;
  onChange: (change: (plan: InspectionPlan) => InspectionPlan) => void;
}) {
  const users = usersOf(c.id, plan);
  const { name, number, flag, placed } = constructionKind(c.kind);
  const put = (change: Record<string, unknown>) =>
    onChange((p) => ({
      ...p,
      constructions: p.constructions?.map((x) => (x.id === c.id ? ({ ...x, ...change } as ConstructionPlan) : x)),
    }));
  return (
    <div className="mb-3 space-y-2" data-testid="construction-editor">
      <p className="text-xs text-soft">{name}</p>
      <TextField label="Name" value={c.name} disabled={disabled} onChange={(to) => put({ name: to })} />
      {number && (
        <NumberField
          label={number.label}
          value={(c as unknown as Record<string, number>)[number.key]}
          min={number.min}
          disabled={disabled}
          onChange={(v) => v !== null && put({ [number.key]: v })}
        />
      )}
      {placed && "at" in c && <PlaceOnNominal at={c.at ?? []} disabled={disabled} onPlace={(at) => put({ at })} />}
      {flag && (
        <Check
          checked={Boolean((c as unknown as Record<string, boolean>)[flag.key])}
          disabled={disabled}
          onChange={(on) => put({ [flag.key]: on })}
        >
          {flag.label}
        </Check>
      )}
      <StandsIn plan={plan} value={c.alignment} disabled={disabled} onChange={(alignment) => put({ alignment })} />
      <Button
        tone="quiet"
        className="text-bad"
        disabled={disabled || users.length > 0}
        onClick={() => onChange((p) => ({ ...p, constructions: p.constructions?.filter((x) => x.id !== c.id) }))}
      >
        Remove
      </Button>
      {users.length > 0 && <p className="text-xs text-soft">Used by {users.join(", ")}.</p>}
    </div>
  );
}

/** A place of the nominal: typed, or clicked on the stage. */
function PlaceOnNominal({
  at,
  disabled,
  onPlace,
}: {
  at: readonly number[];
  disabled: boolean;
  onPlace: (at: number[]) => void;
}) {
  const [picking, setPicking] = useState(false);
  return (
    <div className="space-y-1">
      <div className="grid grid-cols-3 gap-2">
        {["X", "Y", "Z"].map((axis, i) => (
          <NumberField
            key={axis}
            label={`${axis}, mm`}
            value={at[i]}
            disabled={disabled}
            onChange={(v) => v !== null && onPlace(at.map((x, k) => (k === i ? v : x)))}
          />
        ))}
      </div>
      <Button aria-pressed={picking} disabled={disabled} onClick={() => setPicking(!picking)}>
        {picking ? "Click the place on the stage" : "Pick the place"}
      </Button>
      {picking && (
        <Picked
          onPick={(place) => {
            onPlace(place);
            setPicking(false);
          }}
        />
      )}
    </div>
  );
}

/** While it is there, the next click on the nominal gives its place. */
function Picked({ onPick }: { onPick: (place: number[]) => void }) {
  usePick((hit) => {
    if (hit?.nominal) {
      // A hundredth of a micrometre is finer than any scan; more digits only hide the place.
      onPick(hit.nominal.point.map((x) => Math.round(x * 1e5) / 1e5));
    }
  });
  return null;
}
