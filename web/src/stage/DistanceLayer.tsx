import { useEffect, useState } from "react";
import { useBench } from "./bench";

/** The places between which a distance is asked, and the line that joins them. */
export function DistanceLayer() {
  const view = useBench((s) => s.view);
  const places = useBench((s) => s.places);
  const [, look] = useState(0);
  useEffect(() => view?.follow(() => look((n) => n + 1)), [view]);
  if (!view || places.length === 0) {
    return null;
  }

  const at = places.map((p) => view.sighting.project([...p.point]));
  return (
    <svg className="pointer-events-none absolute inset-0 h-full w-full" aria-hidden data-testid="distance">
      {at.length === 2 &&
        ["var(--panel)", "var(--ink)"].map((colour, k) => (
          <line
            key={colour}
            x1={at[0].x}
            y1={at[0].y}
            x2={at[1].x}
            y2={at[1].y}
            stroke={colour}
            strokeWidth={k === 0 ? 4 : 1.5}
          />
        ))}
      {at.map((p, i) => (
        <g key={i} transform={`translate(${p.x},${p.y})`}>
          <circle r="9" fill="var(--panel)" stroke="var(--ink)" />
          <text y="4" textAnchor="middle" fontSize="11" fontWeight="600" fill="var(--ink)">
            {"AB"[i]}
          </text>
        </g>
      ))}
    </svg>
  );
}
