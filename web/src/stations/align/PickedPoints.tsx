import { X } from "lucide-react";
import { useState } from "react";
import type { AlignPlan } from "../../api/client";
import { usePick } from "../../stage/picking";
import { fixed } from "../../ui/format";
import { NumberField } from "../../ui/NumberField";
import { Button, Field } from "../../ui/parts";
import { back, type MethodPlan, type To } from "./methods";
import { pastedPoints } from "./paste";

/** Places of the nominal, each met along its own direction. */
export function Points({
  align,
  disabled,
  onChange,
}: {
  align: MethodPlan<"reference-points">;
  disabled: boolean;
  onChange: To;
}) {
  const points = align.points ?? [];
  const put = (to: (of: typeof points) => typeof points) =>
    onChange((a) => (a.method === "reference-points" ? { ...a, points: to(a.points ?? []) } : a));
  usePick((hit) => {
    if (hit?.nominal && !disabled) {
      const { point, normal } = hit.nominal;
      put((of) => [...of, { name: `P${of.length + 1}`, point, direction: normal, weight: 1, offset: 0 }]);
    }
  });
  return (
    <>
      <ol className="num space-y-1 text-xs">
        {points.map((p, i) => (
          <li key={i} className="flex items-center justify-between gap-2 border-t border-line/60">
            <span>
              {p.name} {p.point.map((v) => fixed(v, 1)).join(" ")}
            </span>
            <Remove
              name={p.name}
              disabled={disabled}
              onClick={() => put((of) => of.filter((_, k) => k !== i).map((x, k) => ({ ...x, name: `P${k + 1}` })))}
            />
          </li>
        ))}
      </ol>
      <Paste disabled={disabled} onPoints={(pasted) => put((of) => [...of, ...pasted])} />
      <NumberField
        label="Measured within, mm"
        value={align.searchDistance ?? 5}
        min={0}
        disabled={disabled}
        onChange={(d) => onChange((a) => ({ ...a, searchDistance: d ?? 5 }) as AlignPlan)}
      />
    </>
  );
}

/** Takes a table of points from a spreadsheet. */
function Paste({
  disabled,
  onPoints,
}: {
  disabled: boolean;
  onPoints: (points: NonNullable<MethodPlan<"reference-points">["points"]>) => void;
}) {
  const [text, setText] = useState("");
  const read = text.trim() === "" ? null : pastedPoints(text);
  return (
    <details>
      <summary className="cursor-pointer text-soft">Paste a table</summary>
      <Field
        label="Name, x, y, z, direction, weight; a line each"
        hint={read && "fault" in read ? read.fault : undefined}
      >
        <textarea
          className="num h-20 w-full rounded border border-line bg-panel p-1 text-xs"
          value={text}
          disabled={disabled}
          aria-invalid={read !== null && "fault" in read}
          onChange={(e) => setText(e.target.value)}
        />
      </Field>
      <Button
        disabled={disabled || read === null || "fault" in read}
        onClick={() => {
          if (read && "points" in read) {
            onPoints(read.points);
            setText("");
          }
        }}
      >
        {read && "points" in read ? `Add ${read.points.length} points` : "Add the points"}
      </Button>
    </details>
  );
}

/** Places of the scan with the places of the nominal they belong to: first one is clicked, then the other. */
export function Pairs({
  align,
  transform,
  disabled,
  onChange,
}: {
  align: MethodPlan<"point-pairs">;
  transform: readonly number[] | null;
  disabled: boolean;
  onChange: To;
}) {
  const [scan, setScan] = useState<number[] | null>(null);
  const pairs = align.pairs ?? [];
  const put = (to: (of: typeof pairs) => typeof pairs) =>
    onChange((a) => (a.method === "point-pairs" ? { ...a, pairs: to(a.pairs ?? []) } : a));
  usePick((hit) => {
    if (!hit || disabled || !transform) {
      return;
    }

    if (scan === null) {
      setScan(back(transform, hit.point));
    } else if (hit.nominal) {
      put((of) => [...of, { scan, nominal: hit.nominal!.point, weight: 1 }]);
      setScan(null);
    }
  });
  return (
    <>
      <p role="status">
        {!transform
          ? "Align once in any way: pairs are picked where scan and nominal are both shown."
          : scan
            ? "Now click the place of the nominal it belongs to."
            : "Click a place of the scan."}
      </p>
      <ol className="num space-y-1 text-xs">
        {pairs.map((p, i) => (
          <li key={i} className="flex items-center justify-between gap-2 border-t border-line/60">
            <span>
              {p.scan.map((v) => fixed(v, 1)).join(" ")} → {p.nominal.map((v) => fixed(v, 1)).join(" ")}
            </span>
            <Remove
              name={`pair ${i + 1}`}
              disabled={disabled}
              onClick={() => put((of) => of.filter((_, k) => k !== i))}
            />
          </li>
        ))}
      </ol>
    </>
  );
}

const Remove = ({ name, ...rest }: { name: string; disabled: boolean; onClick: () => void }) => (
  <button
    type="button"
    aria-label={`Remove ${name}`}
    className="rounded p-1 hover:bg-tint disabled:opacity-30"
    {...rest}
  >
    <X size={13} />
  </button>
);
