import { useCallback, useState } from "react";
import { plural } from "../ui/format";
import { Button } from "../ui/parts";
import { useBench } from "./bench";
import { pickedFaces, usePick, type PickHandler } from "./picking";

/** Faces that are chosen on the stage: while choosing, a click adds a face or takes it away. */
export function FaceChoice({
  faces,
  disabled,
  onToggle,
}: {
  faces: readonly number[];
  disabled: boolean;
  onToggle: (face: number) => void;
}) {
  // Where there is none yet, choosing is all there is to do.
  const [choosing, setChoosing] = useState(faces.length === 0);
  const set = useBench((s) => s.set);
  return (
    <div className="flex items-center justify-between gap-2">
      <span>{choosing ? "Click faces on the stage to add or take away." : plural(faces.length, "face")}</span>
      <Button
        aria-pressed={choosing}
        disabled={disabled}
        onClick={() => {
          set({ faces: [...faces] });
          setChoosing(!choosing);
        }}
      >
        {choosing ? "Done" : "Choose faces"}
      </Button>
      {choosing && <Picking onToggle={onToggle} />}
    </div>
  );
}

/** While it is there, clicks on the stage go to it. */
function Picking({ onToggle }: { onToggle: (face: number) => void }) {
  const set = useBench((s) => s.set);
  usePick(
    useCallback<PickHandler>(
      (hit) => {
        if (hit?.face != null) {
          set({ faces: pickedFaces(useBench.getState().faces, hit.face, true) });
          onToggle(hit.face);
        }
      },
      [onToggle, set],
    ),
  );
  return null;
}
