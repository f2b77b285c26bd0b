import { useEffect, useMemo, useRef } from "react";
import type { LabelPlan, Schemas } from "../api/client";
import { fixed, signed } from "../ui/format";
import { useBench } from "./bench";
import { beyond, type Scale } from "./ramp";
import { spread } from "./spread";

type Content = NonNullable<Schemas["LabelContent"]>;

const LINE = 17;
const LETTER = 7.3;

/** At the right of the stage the ruler stands, at its left nothing. */
const RULER = 150;

/** What a label says, line by line. */
export function labelLines(label: LabelPlan, value: number | null, scale: Scale, say: readonly Content[]): string[] {
  const side = value === null ? 0 : beyond(value, scale);
  // A map that has no values below 0 needs no signs.
  const number = scale.lower < 0 ? signed : fixed;
  const limit = (v: number, binds: boolean) => (binds ? number(v) : "");
  const texts: Record<Content, string> = {
    name: label.name ?? "",
    value: value === null ? "no data" : number(value),
    limits: `${limit(scale.lower, scale.lowerBinds)} … ${limit(scale.upper, scale.upperBinds)}`,
    beyond: side === 0 ? "" : `${signed(value! - (side < 0 ? scale.lower : scale.upper))} beyond`,
  };
  return (["name", "value", "limits", "beyond"] as const)
    .filter((c) => say.includes(c) && texts[c])
    .map((c) => texts[c]);
}

/** Pinned labels with leader lines, laid out beside the part; moved without React while the camera turns. */
export function LabelLayer({
  labels,
  say,
  scale,
  readings,
  onRemove,
}: {
  labels: LabelPlan[];
  say: readonly Content[];
  scale: Scale;
  /** What each reads; null while the server looks. */
  readings: Schemas["LabelReading"][] | null;
  onRemove: ((index: number) => void) | null;
}) {
  const view = useBench((s) => s.view);
  const layer = useRef<SVGSVGElement>(null);
  const texts = useMemo(
    () => labels.map((l, i) => (readings === null ? ["…"] : labelLines(l, readings[i]?.value ?? null, scale, say))),
    [labels, readings, scale, say],
  );
  const width = 26 + LETTER * Math.max(6, ...texts.flat().map((t) => t.length));
  const height = 5 + LINE * Math.max(1, ...texts.map((t) => t.length));
  useEffect(() => {
    if (!view) {
      return;
    }

    const place = () => {
      const groups = layer.current?.querySelectorAll<SVGGElement>("g[data-label]") ?? [];
      const anchors = labels.map((l) => view.sighting.project(l.point));
      const { width: right, height: tall } = layer.current!.getBoundingClientRect();
      const room = { left: 0, right: right - RULER, height: tall, part: view.silhouette() };
      const boxes = spread(anchors, width, height, room);
      groups.forEach((g, i) => {
        const [a, b] = [anchors[i], boxes[i]];
        const line = g.querySelector("line")!;
        line.setAttribute("x1", String(a.x));
        line.setAttribute("y1", String(a.y));
        line.setAttribute("x2", String(b.x < a.x ? b.x + width : b.x));
        line.setAttribute("y2", String(b.y + height / 2));
        g.querySelector("circle")!.setAttribute("transform", `translate(${a.x},${a.y})`);
        g.querySelector("[data-box]")!.setAttribute("transform", `translate(${b.x},${b.y})`);
      });
    };
    place();
    return view.follow(place);
  }, [labels, view, width, height]);

  return (
    <svg ref={layer} className="pointer-events-none absolute inset-0 h-full w-full" aria-label="Pinned labels">
      {texts.map((lines, i) => (
        <g key={i} data-label>
          <line stroke="var(--ink)" />
          <circle r="3" fill="var(--ink)" />
          <g data-box data-testid="label">
            <rect width={width} height={height} rx="3" fill="var(--panel)" stroke="var(--ink)" />
            {lines.map((text, k) => (
              <text key={k} x="7" y={LINE * (k + 1) - 2} className="num" fontSize="12" fill="var(--ink)">
                {text}
              </text>
            ))}
            <g
              display={onRemove ? undefined : "none"}
              role="button"
              tabIndex={0}
              aria-label={`Remove label ${lines.join(" ")}`}
              className="pointer-events-auto cursor-pointer"
              onClick={() => onRemove?.(i)}
              onKeyDown={(e) => e.key === "Enter" && onRemove?.(i)}
            >
              <rect x={width - 17} y="2" width="16" height="18" fill="transparent" />
              <path d={`m${width - 12} 8 6 6m0-6-6 6`} stroke="var(--soft)" strokeWidth="1.4" />
            </g>
          </g>
        </g>
      ))}
    </svg>
  );
}
