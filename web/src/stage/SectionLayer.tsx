import { useEffect, useState } from "react";
import { inSpace, movedTo, offsetOf, type SectionSheet } from "../plan/sections";
import { useBench } from "./bench";
import { seenAt } from "./gripping";

/** Half the length of the stroke by which a plane is moved, CSS pixels. */
const GRIP = 42;

/** The cut as it stands in the part: the nominal's outlines, the scan's, and a stroke by which a hand moves the plane. */
export function SectionLayer() {
  const view = useBench((s) => s.view);
  const cut = useBench((s) => s.section);
  const [, look] = useState(0);
  useEffect(() => view?.follow(() => look((n) => n + 1)), [view]);
  if (!view || !cut) {
    return null;
  }

  const { sheet, plan, onMove } = cut;
  const sight = view.sighting.sight();
  const path = (points: readonly number[], closed: boolean) => {
    const at = inSpace(sheet!.frame, points);
    let d = "";
    for (let i = 0; i < at.length; i += 3) {
      const [x, y] = seenAt(sight, at.slice(i, i + 3));
      d += `${i === 0 ? "M" : "L"}${x.toFixed(1)} ${y.toFixed(1)}`;
    }

    return closed ? d + "Z" : d;
  };
  // Where the plane is by now: the cut may be of where it was a moment ago.
  const normal = plan.normal.map((x) => x / Math.hypot(...plan.normal));
  const origin = sheet ? movedTo({ ...plan, point: sheet.frame.origin }, offsetOf(plan)).point : plan.point;
  const centre = seenAt(sight, origin);
  const along = [0, 1].map(
    (k) => seenAt(sight, origin.map((x, i) => x + normal[i]))[k] - centre[k], // prettier-ignore
  );
  // Pixels of one millimetre along the normal; seen end on, the plane is not moved by hand.
  const pixels = Math.hypot(along[0], along[1]);
  const seen = pixels * sight.scale > 0.2;
  const end = (by: number) => [0, 1].map((k) => centre[k] + (by * along[k]) / pixels).join(" ");
  const stroke = seen ? `M${end(-GRIP)}L${end(GRIP)}` : "";
  const grip = (e: React.PointerEvent<SVGGElement>) => {
    e.preventDefault();
    const element = e.currentTarget;
    element.setPointerCapture(e.pointerId);
    const [startX, startY, from] = [e.clientX, e.clientY, offsetOf(plan)];
    const moved = (m: PointerEvent) =>
      from + ((m.clientX - startX) * along[0] + (m.clientY - startY) * along[1]) / pixels ** 2;
    const move = (m: PointerEvent) => onMove?.(movedTo(plan, round(moved(m))), false);
    const stop = (m: PointerEvent) => {
      element.removeEventListener("pointermove", move);
      element.removeEventListener("pointerup", stop);
      element.removeEventListener("pointercancel", stop);
      onMove?.(movedTo(plan, round(moved(m))), true);
    };
    element.addEventListener("pointermove", move);
    element.addEventListener("pointerup", stop);
    element.addEventListener("pointercancel", stop);
  };
  return (
    <svg className="pointer-events-none absolute inset-0 h-full w-full" aria-hidden data-testid="section-on-part">
      {sheet && (
        <>
          <path
            d={outlines(sheet, "nominal", path)}
            fill="var(--panel)"
            fillOpacity="0.55"
            fillRule="evenodd"
            stroke="var(--indigo)"
            strokeWidth="1.5"
          />
          <path d={outlines(sheet, "scan", path)} fill="none" stroke="var(--brass)" strokeWidth="1.5" />
        </>
      )}
      {onMove && seen && (
        <g
          className="pointer-events-auto cursor-grab touch-none text-indigo hover:text-brass"
          data-testid="section-grip"
          onPointerDown={(e) => e.button === 0 && grip(e)}
        >
          <title>Drag the plane along its normal</title>
          <path d={stroke} stroke="transparent" strokeWidth="20" />
          <path d={stroke} stroke="var(--panel)" strokeWidth="6" strokeLinecap="round" />
          <path d={stroke} stroke="currentColor" strokeWidth="2.5" strokeLinecap="round" />
          <circle cx={centre[0]} cy={centre[1]} r="6" fill="currentColor" stroke="var(--panel)" strokeWidth="2" />
        </g>
      )}
    </svg>
  );
}

const outlines = (
  sheet: SectionSheet,
  of: "nominal" | "scan",
  path: (p: readonly number[], closed: boolean) => string,
) =>
  sheet[of]
    .filter((o) => !("joined" in o) || o.joined)
    .map((o) => path(o.points, o.closed))
    .join("");

const round = (mm: number) => Math.round(mm * 100) / 100;
