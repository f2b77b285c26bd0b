import type { MapPlan, MeasuredFeature, PieceView, Schemas } from "../api/client";
import { useCallback, useEffect, useRef, useState } from "react";
import { activeJob, useCancelJob } from "../api/hooks";
import { useTasks, type Task } from "../api/tasks";
import { onHover, useBench } from "../stage/bench";
import type { Hit } from "../stage/Picker";
import { useShown, type Shown } from "../stage/shown";
import { describeFace, mainNumber } from "../stations/features/describe";
import { fixed, signed } from "../ui/format";
import { Bar } from "../ui/parts";

/** The task that has been running for more than a blink: quick ones would only flicker. */
function useLongTask(): Task | null {
  const first = useTasks((s) => s.running[0]);
  const [slow, setSlow] = useState<string | null>(null);
  const id = first?.id;
  useEffect(() => {
    const timer = id ? setTimeout(() => setSlow(id), 400) : undefined;
    return () => clearTimeout(timer);
  }, [id]);
  return first && first.id === slow ? first : null;
}

const none: readonly MeasuredFeature[] = [];

/** What was measured of a face, where the plan has a feature of it that is known by a number. */
function measuredOn(face: number, features: readonly MeasuredFeature[]): string {
  const found = features.find((f) => !f.failure && f.plan.faces.includes(face));
  const number = found ? mainNumber(found) : null;
  return found && number ? `; ${found.plan.name} measured ${number.sign}${fixed(number.value, 3)}` : "";
}

/** The bottom line: what lies under the cursor, what is picked, what is being worked on. */
export function Readout({
  piece,
  nominal,
  map,
}: {
  piece: PieceView;
  nominal: Schemas["NominalView"] | null;
  /** What is looked at instead of the deviation. */
  map: MapPlan | null;
}) {
  const shown = useShown(piece, map);
  const faces = useBench((s) => s.faces);
  const cancel = useCancelJob();
  const job = activeJob(piece.jobs);
  const last = piece.jobs[0];
  const task = useLongTask();
  const features = (piece.run?.features ?? none) as readonly MeasuredFeature[];
  const value = (hover: Hit | null) => valueIn(shown, hover);
  const faceUnder = useCallback(
    (hover: Hit | null) => {
      const face = hover?.face != null ? nominal?.faces[hover.face] : undefined;
      return face ? `face ${face.id}: ${describeFace(face)}${measuredOn(face.id, features)}` : "";
    },
    [nominal, features],
  );
  return (
    <footer
      className="flex h-7 shrink-0 items-center gap-5 border-t border-line bg-panel px-3 text-xs"
      aria-label="Readout"
    >
      <Hovered className="num w-64" text={place} />
      <Hovered className="num w-44" testId="hover-deviation" text={value} />
      <Hovered testId="hover-face" text={faceUnder} />
      {faces.length > 0 && <span>{faces.length === 1 ? "1 face" : `${faces.length} faces`} picked</span>}
      <span
        className="ml-auto flex items-center gap-2"
        data-testid="job"
        data-job={last?.kind}
        data-job-id={last?.id}
        data-job-state={last?.state}
      >
        {task && !job ? (
          <>
            <span role="status">{task.what}</span>
            <span className="w-40">
              <Bar share={task.share} label={task.what} />
            </span>
            <button type="button" className="underline" onClick={task.cancel}>
              cancel
            </button>
          </>
        ) : job ? (
          <>
            <span role="status">{job.what}</span>
            <span className="w-40">
              <Bar share={job.share} label={job.what} />
            </span>
            <button type="button" className="underline" onClick={() => cancel.mutate(job.id)}>
              cancel
            </button>
          </>
        ) : last?.state === "failed" ? (
          <span className="text-bad" role="alert">
            {last.error}
          </span>
        ) : last?.state === "cancelled" ? (
          "Cancelled"
        ) : (
          ""
        )}
      </span>
    </footer>
  );
}

const place = (hover: Hit | null) =>
  hover ? `x ${fixed(hover.point[0], 2)}  y ${fixed(hover.point[1], 2)}  z ${fixed(hover.point[2], 2)} mm` : "";

/** The value of what colours the stage. */
function valueIn({ scale, name, unit }: Shown, hover: Hit | null): string {
  if (hover?.on !== "scan" || hover.deviation === null || hover.deviation === Infinity) {
    return "";
  }

  const value = (scale.lower < 0 ? signed : fixed)(hover.deviation);
  return Number.isNaN(hover.deviation) ? "no data" : `${name} ${value} ${unit}`;
}

/** Text that follows the cursor; written past React, as it changes with every movement. */
function Hovered({
  text,
  className,
  testId,
}: {
  text: (hover: Hit | null) => string;
  className?: string;
  testId?: string;
}) {
  const line = useRef<HTMLSpanElement>(null);
  useEffect(
    () =>
      onHover((hover) => {
        line.current!.textContent = text(hover);
      }),
    [text],
  );
  return <span ref={line} className={className} data-testid={testId} />;
}
