import { useEffect, useRef } from "react";
import type { LabelPlan, Schemas } from "../api/client";
import { signed } from "../ui/format";
import { useBench } from "./bench";
import { spread } from "./spread";

/** Pinned labels with leader lines, laid out so that they do not cover each other; moved without React while the camera turns. */
export function LabelLayer({
  labels,
  readings,
  onRemove,
}: {
  labels: LabelPlan[];
  /** What each reads; null while the server looks. */
  readings: Schemas["LabelReading"][] | null;
  onRemove: ((index: number) => void) | null;
}) {
  const view = useBench((s) => s.view);
  const layer = useRef<SVGSVGElement>(null);
  useEffect(() => {
    if (!view) {
      return;
    }

    const place = () => {
      const groups = layer.current?.querySelectorAll<SVGGElement>("g[data-label]") ?? [];
      const anchors = labels.map((l) => view.project(l.point));
      const boxes = spread(anchors, 78, 22);
      groups.forEach((g, i) => {
        const [a, b] = [anchors[i], boxes[i]];
        const line = g.querySelector("line")!;
        line.setAttribute("x1", String(a.x));
        line.setAttribute("y1", String(a.y));
        line.setAttribute("x2", String(b.x));
        line.setAttribute("y2", String(b.y + 11));
        g.querySelector("circle")!.setAttribute("transform", `translate(${a.x},${a.y})`);
        g.querySelector("[data-box]")!.setAttribute("transform", `translate(${b.x},${b.y})`);
      });
    };
    place();
    return view.follow(place);
  }, [labels, view]);

  const text = (i: number) => {
    const value = readings?.[i]?.value;
    return readings === null ? "…" : value == null ? "no data" : signed(value);
  };
  return (
    <svg ref={layer} className="pointer-events-none absolute inset-0 h-full w-full" aria-label="Pinned labels">
      {labels.map((_, i) => (
        <g key={i} data-label>
          <line stroke="var(--ink)" />
          <circle r="3" fill="var(--ink)" />
          <g data-box>
            <rect width="74" height="22" rx="3" fill="var(--panel)" stroke="var(--ink)" />
            <text x="8" y="15" className="num" fontSize="12" fill="var(--ink)">
              {text(i)}
            </text>
            <g
              display={onRemove ? undefined : "none"}
              role="button"
              tabIndex={0}
              aria-label={`Remove label ${text(i)}`}
              className="pointer-events-auto cursor-pointer"
              onClick={() => onRemove?.(i)}
              onKeyDown={(e) => e.key === "Enter" && onRemove?.(i)}
            >
              <rect x="57" y="2" width="16" height="18" fill="transparent" />
              <path d="m62 8 6 6m0-6-6 6" stroke="var(--soft)" strokeWidth="1.4" />
            </g>
          </g>
        </g>
      ))}
    </svg>
  );
}
