import { useEffect, useState } from "react";
import type { Motion } from "../api/client";
import { useBench } from "./bench";
import { draggedBy, handles, type Handle } from "./gripping";

/** A hand that goes slowly with Shift. */
const FINE = 0.1;

/** Strokes and arcs round the part by which a hand shifts and turns it. */
export function Handles() {
  const view = useBench((s) => s.view);
  const asked = useBench((s) => s.handles);
  const [, look] = useState(0);
  const [held, hold] = useState<{ motion: Motion; shown: Handle[] } | null>(null);
  useEffect(() => view?.follow(() => look((n) => n + 1)), [view]);
  if (!view || !asked) {
    return null;
  }

  const grip = (e: React.PointerEvent<SVGGElement>, motion: Motion) => {
    e.preventDefault();
    const [element, sight] = [e.currentTarget, view.sighting.sight()];
    const box = element.ownerSVGElement!.getBoundingClientRect();
    const at = (m: { clientX: number; clientY: number }) => [m.clientX - box.left, m.clientY - box.top];
    let last = at(e);
    let by = 0;
    element.setPointerCapture(e.pointerId);
    hold({ motion, shown: handles(sight, asked.centre) });
    view.hold(true);
    const move = (m: PointerEvent) => {
      by += draggedBy(sight, asked.centre, motion, last, at(m)) * (m.shiftKey ? FINE : 1);
      last = at(m);
      asked.onDrag(motion, by, false);
    };
    const end = () => {
      element.removeEventListener("pointermove", move);
      element.removeEventListener("pointerup", end);
      element.removeEventListener("pointercancel", end);
      hold(null);
      view.hold(false);
      asked.onDrag(motion, by, true);
    };
    element.addEventListener("pointermove", move);
    element.addEventListener("pointerup", end);
    element.addEventListener("pointercancel", end);
  };
  return (
    <svg className="pointer-events-none absolute inset-0 h-full w-full" aria-hidden data-testid="handles">
      {(held?.shown ?? handles(view.sighting.sight(), asked.centre)).map(({ motion, path }) => {
        const points = path.map((p) => p.join(",")).join(" ");
        const [end, start] = [path[path.length - 1], path[0]];
        return (
          <g
            key={motion}
            data-testid={`handle-${motion}`}
            className={`pointer-events-auto cursor-grab touch-none ${
              held?.motion === motion ? "text-brass" : held ? "opacity-25" : "text-indigo hover:text-brass"
            }`}
            onPointerDown={(e) => e.button === 0 && grip(e, motion)}
          >
            <title>{`${motion.replace("-", " ")}: drag, with Shift ten times finer`}</title>
            <polyline points={points} fill="none" stroke="transparent" strokeWidth="18" />
            <polyline points={points} fill="none" stroke="var(--panel)" strokeWidth="6" strokeLinecap="round" />
            <polyline points={points} fill="none" stroke="currentColor" strokeWidth="2.5" strokeLinecap="round" />
            <path d={head(path[path.length - 2], end)} fill="currentColor" />
            <path d={head(path[1], start)} fill="currentColor" />
            {motion.startsWith("shift") && (
              <text
                x={end[0] + 0.18 * (end[0] - start[0])}
                y={end[1] + 0.18 * (end[1] - start[1]) + 4}
                textAnchor="middle"
                fontSize="12"
                className="num select-none"
                fill="currentColor"
              >
                {motion.slice(-1).toUpperCase()}
              </text>
            )}
          </g>
        );
      })}
    </svg>
  );
}

/** The point of an arrow at the end of a stroke. */
function head(from: readonly number[], to: readonly number[]): string {
  const length = Math.hypot(to[0] - from[0], to[1] - from[1]) || 1;
  const [x, y] = [(to[0] - from[0]) / length, (to[1] - from[1]) / length];
  const at = (along: number, across: number) => `${to[0] + along * x - across * y},${to[1] + along * y + across * x}`;
  return `M${at(7, 0)} L${at(-5, 5.5)} L${at(-5, -5.5)} Z`;
}
