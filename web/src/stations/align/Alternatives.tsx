import type { Schemas } from "../../api/client";
import { useBenchOf } from "../../stage/bench";
import { fixed } from "../../ui/format";
import { Button } from "../../ui/parts";
import { Attention } from "../../ui/Worksheet";
import { turnBetween } from "./hand";

/** So many are shown; a part that is round has no end of them. */
const MOST = 6;

interface Props {
  pieceId: string;
  alignment: Schemas["AlignmentView"];
  canTake: boolean;
  onTake: (pose: number[]) => void;
}

/** Other poses that fit, side by side: coloured where they differ from the one taken, each with how much worse it is. */
export function Alternatives({ pieceId, alignment, canTake, onTake }: Props) {
  const { trialPose, set } = useBenchOf("trialPose", "set");
  const { alternatives, transform } = alignment;
  return (
    <Attention>
      <p className="font-semibold">{alternatives.length + 1} poses fit, and nothing on the part tells them apart.</p>
      <ul className="mt-1 grid grid-cols-2 gap-2" aria-label="Other poses">
        {alternatives.slice(0, MOST).map((a, i) => (
          <li key={i}>
            <button
              type="button"
              className="block w-full rounded border border-line bg-panel aria-pressed:border-indigo aria-pressed:ring-1 aria-pressed:ring-indigo"
              aria-pressed={trialPose === a.transform}
              aria-label={`Show pose ${i + 2} on the stage`}
              onClick={() => set({ trialPose: trialPose === a.transform ? null : a.transform })}
            >
              <img
                className="w-full"
                alt={`Pose ${i + 2}, coloured where it differs`}
                src={`/api/pieces/${pieceId}/align/alternatives/${i}/picture?of=${transform.join()}`}
              />
            </button>
            <p className="text-xs">turned by {fixed(turnBetween(a.transform, transform), 1)}°</p>
            <p className="num text-xs">
              {fixed(a.rms, 4)} mm, {fixed(a.timesWorse, 2)} times as far
            </p>
            <Button className="h-7" disabled={!canTake} onClick={() => onTake(a.transform)}>
              Take this one
            </Button>
          </li>
        ))}
      </ul>
      {alternatives.length > MOST && (
        <p className="mt-1 text-xs text-soft">
          and {alternatives.length - MOST} more; turn the part by hand to take one of them.
        </p>
      )}
    </Attention>
  );
}
