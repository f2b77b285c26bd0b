import { Minus, Plus } from "lucide-react";
import { useEffect, useEffectEvent, useState } from "react";
import type { Motion } from "../../api/client";
import { useBench } from "../../stage/bench";
import { Choice } from "../../ui/Choice";
import { Button, Field } from "../../ui/parts";
import { typing, walking } from "../../ui/typing";
import { nudged } from "./hand";
import { motions } from "./methods";

const lengths = [0.01, 0.1, 1, 10, 100].map((value) => ({ value, name: `${value} mm` }));
const angles = [0.01, 0.1, 1, 10, 90].map((value) => ({ value, name: `${value}°` }));

/** What a key moves the part along, or about. */
const steps: Partial<Record<string, { axis: "x" | "y" | "z"; sign: 1 | -1 }>> = {
  ArrowLeft: { axis: "x", sign: -1 },
  ArrowRight: { axis: "x", sign: 1 },
  ArrowDown: { axis: "y", sign: -1 },
  ArrowUp: { axis: "y", sign: 1 },
  PageDown: { axis: "z", sign: -1 },
  PageUp: { axis: "z", sign: 1 },
};

/** The part is moved in steps; the scan follows on the stage, and the numbers beside it. */
export function ByHand({
  pose,
  center,
  disabled,
  onMove,
  onKeep,
}: {
  /** Scan to nominal, 16 numbers row-major. */
  pose: readonly number[];
  /** Turns are about axes through it. */
  center: readonly [number, number, number];
  disabled: boolean;
  onMove: (pose: number[] | null) => void;
  onKeep: (pose: number[]) => void;
}) {
  const [length, setLength] = useState(1);
  const [angle, setAngle] = useState(1);
  const [moved, setMoved] = useState<number[] | null>(null);
  const set = useBench((s) => s.set);
  const now = moved ?? [...pose];
  const put = (to: number[] | null) => {
    setMoved(to);
    set({ trialPose: to });
    onMove(to);
  };
  useEffect(() => () => set({ trialPose: null }), [set]);
  const nudge = (of: Motion, sign: number) =>
    put(nudged(now, of, sign * (of.startsWith("turn") ? (angle * Math.PI) / 180 : length), center));
  const keys = useEffectEvent((e: KeyboardEvent) => {
    const way =
      disabled || e.defaultPrevented || typing(e) || walking(e) || e.ctrlKey || e.metaKey || e.altKey
        ? undefined
        : steps[e.key];
    if (way) {
      e.preventDefault();
      nudge(`${e.shiftKey ? "turn" : "shift"}-${way.axis}`, way.sign);
    }
  });
  useEffect(() => {
    window.addEventListener("keydown", keys);
    return () => window.removeEventListener("keydown", keys);
  }, []);
  return (
    <div className="space-y-2" data-testid="by-hand">
      <p className="text-xs text-soft">
        Arrow keys move it along X and Y, Page up and Page down along Z; with Shift they turn it about them.
      </p>
      <div className="grid grid-cols-2 gap-2">
        <Field label="Step of a shift">
          <Choice value={length} options={lengths} onChange={setLength} />
        </Field>
        <Field label="Step of a turn">
          <Choice value={angle} options={angles} onChange={setAngle} />
        </Field>
      </div>
      <div className="grid grid-cols-2 gap-x-4 gap-y-1">
        {motions.map((of) => (
          <div key={of} className="flex items-center justify-between">
            <span>{of.replace("-", " ")}</span>
            <span className="flex gap-1">
              <Button
                className="h-7 px-2"
                aria-label={`Less ${of.replace("-", " ")}`}
                disabled={disabled}
                onClick={() => nudge(of, -1)}
              >
                <Minus size={14} />
              </Button>
              <Button
                className="h-7 px-2"
                aria-label={`More ${of.replace("-", " ")}`}
                disabled={disabled}
                onClick={() => nudge(of, 1)}
              >
                <Plus size={14} />
              </Button>
            </span>
          </div>
        ))}
      </div>
      {moved && (
        <div className="flex gap-2">
          <Button disabled={disabled} onClick={() => onKeep(moved)}>
            Keep this pose
          </Button>
          <Button disabled={disabled} onClick={() => put(null)}>
            Put it back
          </Button>
        </div>
      )}
    </div>
  );
}
