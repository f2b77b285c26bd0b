import { Minus, Plus } from "lucide-react";
import { useEffect, useEffectEvent, useRef, useState } from "react";
import type { Motion } from "../../api/client";
import { useBenchOf } from "../../stage/bench";
import type { Hit } from "../../stage/Picker";
import { usePick } from "../../stage/picking";
import { Menu } from "../../ui/Choice";
import { NumberField } from "../../ui/NumberField";
import { Button } from "../../ui/parts";
import { typing, walking } from "../../ui/typing";
import { nudged, turnedTo } from "./hand";
import { motions } from "./methods";

/** Towards where a face may be laid. */
const sides = [
  ["Z−", [0, 0, -1]],
  ["Z+", [0, 0, 1]],
  ["Y−", [0, -1, 0]],
  ["Y+", [0, 1, 0]],
  ["X−", [-1, 0, 0]],
  ["X+", [1, 0, 0]],
] as const;

/** How far round a click its face is looked at, as a share of what the picture is high. */
const AROUND = 0.02;

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
  waiting,
  lies,
  onMove,
  onKeep,
}: {
  /** Scan to nominal, 16 numbers row-major. */
  pose: readonly number[];
  /** Turns are about axes through it. */
  center: readonly [number, number, number];
  disabled: boolean;
  /** Numbers of the last move are still on their way. */
  waiting: boolean;
  /** How well it lies where the hand has it; null while nothing was moved. */
  lies: string | null;
  onMove: (pose: number[] | null) => void;
  onKeep: (pose: number[]) => void;
}) {
  const [length, setLength] = useState(1);
  const [angle, setAngle] = useState(1);
  const [moved, setMoved] = useState<number[] | null>(null);
  const [laying, setLaying] = useState<number | null>(null);
  const { set, view } = useBenchOf("set", "view");
  const now = moved ?? [...pose];
  const put = (to: number[] | null) => {
    setMoved(to);
    set({ trialPose: to });
    onMove(to);
  };
  useEffect(() => () => set({ trialPose: null }), [set]);
  const held = useRef<number[] | null>(null);
  const drag = (motion: Motion, by: number, done: boolean) => {
    held.current ??= now;
    const to = nudged(held.current, motion, by, center);
    setMoved(to);
    set({ trialPose: to });
    // The numbers follow as fast as they come: none is asked for before the last one is there.
    if (done || !waiting) {
      onMove(to);
    }

    held.current = done ? null : held.current;
  };
  const dragged = useRef(drag);
  useEffect(() => {
    dragged.current = drag;
  });
  const [x, y, z] = center;
  useEffect(() => {
    set({
      handles: disabled ? null : { centre: [x, y, z], onDrag: (...hand) => dragged.current(...hand) },
    });
    return () => set({ handles: null });
  }, [set, disabled, x, y, z]);
  const centred = () => {
    const [from, to] = [view?.middleOf("scan"), view?.middleOf("nominal")];
    if (from && to) {
      put(now.map((v, i) => (i % 4 === 3 && i < 12 ? v + to[(i - 3) / 4] - from[(i - 3) / 4] : v)));
    }
  };
  const lay = (hit: Hit | null, towards: number) => {
    const facing = hit?.on === "scan" && view?.facing(hit.point, hit.normal, AROUND * view.controls.span);
    if (facing) {
      put(turnedTo(now, facing, sides[towards][1], center));
      setLaying(null);
    }
  };
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
        Drag the strokes on the stage to shift it, the arcs to turn it; Shift goes finer. Arrow keys move it along X and
        Y, Page up and Page down along Z; with Shift they turn it.
      </p>
      {moved && (
        <p className="num font-semibold" role="status">
          {lies ?? "RMS …"}
        </p>
      )}
      <div className="grid grid-cols-2 gap-2">
        <NumberField label="Step of a shift, mm" value={length} min={0} onChange={(v) => setLength(v ?? length)} />
        <NumberField label="Step of a turn, °" value={angle} min={0} onChange={(v) => setAngle(v ?? angle)} />
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
      <div className="flex flex-wrap gap-2">
        <Button disabled={disabled} onClick={centred}>
          Centre
        </Button>
        <Menu
          name="Lay a face towards"
          disabled={disabled}
          groups={[{ options: sides.map(([name], value) => ({ name, value })) }]}
          onPick={setLaying}
        />
      </div>
      {laying !== null && (
        <>
          <p role="status" className="text-xs">
            Click the face of the scan that shall look to {sides[laying][0]}.
          </p>
          <Laid onPick={(hit) => lay(hit, laying)} />
        </>
      )}
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

/** While it is there, a click on the stage picks the face to lay. */
function Laid({ onPick }: { onPick: (hit: Hit | null) => void }) {
  usePick(onPick);
  return null;
}
