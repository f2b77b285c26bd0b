import { explainedParts, partOrder, toggled, type ExplainedPart } from "../../plan/explained";
import { fixed } from "../../ui/format";
import { Check } from "../../ui/parts";

interface Props {
  parts: readonly ExplainedPart[];
  disabled?: boolean;
  /** Root mean square of what is left once all up to a part are taken out, mm, and of the whole. */
  left?: { whole: number; after: Partial<Record<ExplainedPart, number>> };
  onChange: (parts: ExplainedPart[]) => void;
}

/** Which parts of what explains the deviation are taken out. */
export function TakenOut({ parts, disabled, left, onChange }: Props) {
  return (
    <div className="space-y-1" role="group" aria-label="Taken out">
      {partOrder.map((part) => (
        <div key={part} className="grid grid-cols-[1fr_5rem_4rem] items-center gap-2">
          <Check checked={parts.includes(part)} disabled={disabled} onChange={() => onChange(toggled(parts, part))}>
            {explainedParts[part]}
          </Check>
          {left && (
            <>
              <span className="h-2 bg-tint" aria-hidden>
                <span
                  className="block h-2 bg-brass"
                  style={{ width: `${(100 * (left.after[part] ?? 0)) / Math.max(1e-9, left.whole)}%` }}
                />
              </span>
              <span className="num text-right text-xs">{fixed(left.after[part], 4)}</span>
            </>
          )}
        </div>
      ))}
    </div>
  );
}
