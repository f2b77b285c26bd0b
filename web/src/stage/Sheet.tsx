import { memo, useMemo, useRef, useState } from "react";
import { measuredArcs, onSheet, partAt, type SectionSheet } from "../plan/sections";
import { fixed, roundBelow, signed } from "../ui/format";
import { useBench, type Cut } from "./bench";
import type { Scale } from "./ramp";
import { useDeviationScale } from "./shown";
import { dots, nearest, path, strokes, wholeOf, type Measured, type View } from "./strokes";

/** Strokes stand so many pixels apart. */
const APART = 6;

/** The sheet is taken to be so many pixels wide where their size does not matter much. */
const WIDE = 850;

/** A click comes no nearer to a line than so many pixels, and is none once it went farther than so many. */
const [NEAR, STILL] = [9, 4];

interface Props {
  cut: Cut;
  sheet: SectionSheet;
  times: number;
  scale: Scale;
}

/**
 * A section seen square on and true to scale, with strokes of deviation: dragged to move, the wheel zooms; a click picks a
 * line or an arc.
 */
export function Sheet({ cut, sheet, times, scale: colours }: Props) {
  const pressed = useRef<[number, number]>([0, 0]);
  const box = useRef<SVGSVGElement>(null);
  const [view, look] = useState<{ of: string; view: View } | null>(null);
  const [under, setUnder] = useState<Measured | null>(null);
  const frame = sheet.frame.normal.join() + sheet.frame.up.join();
  const whole = useMemo(() => wholeOf(sheet), [sheet]);
  // Another plane of the same direction is seen where one looks already.
  const shown = view?.of === frame ? view.view : whole;
  const client = () => box.current!.getBoundingClientRect();
  /** Millimetres a pixel. */
  const scale = () => Math.max(shown.width / client().width, shown.height / client().height);
  const at = (e: { clientX: number; clientY: number }) => {
    const b = client();
    const [cx, cy] = [shown.x + shown.width / 2, shown.y + shown.height / 2];
    return [cx + (e.clientX - b.x - b.width / 2) * scale(), cy + (e.clientY - b.y - b.height / 2) * scale()];
  };
  const zoom = (e: React.WheelEvent) => {
    const f = Math.exp(Math.sign(e.deltaY) * Math.min(0.3, Math.abs(e.deltaY) / 500));
    const [x, y] = at(e);
    const [width, height] = [f * shown.width, f * shown.height];
    look({ of: frame, view: { x: x + f * (shown.x - x), y: y + f * (shown.y - y), width, height } });
  };
  const move = (e: React.PointerEvent<SVGSVGElement>) => {
    if (e.buttons & 1) {
      const s = scale();
      look({ of: frame, view: { ...shown, x: shown.x - e.movementX * s, y: shown.y - e.movementY * s } });
      return;
    }

    const [x, y] = at(e);
    setUnder(nearest(sheet, x, -y, 12 * scale()));
  };
  const pixel = shown.width / WIDE;
  const bar = roundBelow(shown.width / 6);
  const [left, bottom] = [shown.x + 0.03 * shown.width, shown.y + 0.96 * shown.height];
  return (
    <div className="absolute inset-0 bg-panel" data-testid="section-sheet">
      <svg
        ref={box}
        className="h-full w-full touch-none select-none"
        viewBox={`${shown.x} ${shown.y} ${shown.width} ${shown.height}`}
        role="img"
        aria-label="The section seen square on"
        onWheel={zoom}
        onPointerDown={(e) => {
          pressed.current = [e.clientX, e.clientY];
          e.currentTarget.setPointerCapture(e.pointerId);
        }}
        onClick={(e) => {
          const [x, y] = at(e);
          const part = partAt(sheet.parts, x, -y, NEAR * scale());
          if (part >= 0 && Math.hypot(e.clientX - pressed.current[0], e.clientY - pressed.current[1]) <= STILL) {
            cut.onPick?.(part);
          }
        }}
        onPointerMove={move}
        onPointerLeave={() => setUnder(null)}
        onDoubleClick={() => look(null)}
      >
        {cut.lit.map((run, i) => (
          <path
            key={i}
            d={path(run, false)}
            fill="none"
            stroke="var(--brass)"
            strokeWidth="5"
            strokeLinecap="round"
            opacity="0.75"
            vectorEffect="non-scaling-stroke"
            data-testid="picked-part"
          />
        ))}
        <Drawing sheet={sheet} times={times} scale={colours} pixel={pixel} />
        {cut.marks.map(({ no, parts }) => (
          <Mark key={no} no={no} parts={parts.map((p) => onSheet(sheet.frame, p))} pixel={pixel} />
        ))}
        <path d={`M${left} ${bottom}h${bar}`} stroke="var(--ink)" strokeWidth="2" vectorEffect="non-scaling-stroke" />
        <text x={left} y={bottom - 6 * pixel} fontSize={12 * pixel} fill="var(--ink)" className="num">
          {bar} mm
        </text>
        {under && <circle cx={under.x} cy={-under.y} r={5 * pixel} fill="var(--brass)" />}
      </svg>
      <p className="num pointer-events-none absolute top-3 left-4 text-xs" role="status">
        {under
          ? `${signed(under.value)} mm at ${fixed(under.x, 2)}, ${fixed(under.y, 2)}`
          : `strokes ${times} times as long; the nominal in indigo`}
      </p>
    </div>
  );
}

interface Drawn {
  sheet: SectionSheet;
  times: number;
  scale: Scale;
  /** mm. */
  pixel: number;
}

/** The outlines, the strokes and the numbers of the arcs; not drawn anew while a hand only points. */
const Drawing = memo(function Drawing({ sheet, times, scale, pixel }: Drawn) {
  return (
    <>
      {sheet.nominal.map((o, i) => (
        <path
          key={i}
          d={path(o.points, o.closed)}
          fill="none"
          stroke="var(--indigo)"
          strokeWidth="1.4"
          vectorEffect="non-scaling-stroke"
        />
      ))}
      {strokes(sheet, times, scale, APART * pixel).map(({ d, stroke }, i) => (
        <path key={i} d={d} stroke={stroke} strokeWidth="2.4" vectorEffect="non-scaling-stroke" />
      ))}
      {sheet.scan.map((o, i) => (
        <path
          key={i}
          d={o.joined ? path(o.points, o.closed) : dots(o.points)}
          fill="none"
          stroke="var(--ink)"
          strokeWidth={o.joined ? 1 : 2.4}
          strokeLinecap="round"
          vectorEffect="non-scaling-stroke"
        />
      ))}
      {measuredArcs(sheet.parts).map(({ at: [x, y] }, i) => (
        <g key={i} transform={`translate(${x} ${-y})`}>
          <circle r={7 * pixel} fill="var(--panel)" stroke="var(--indigo)" vectorEffect="non-scaling-stroke" />
          <text y={3.5 * pixel} textAnchor="middle" fontSize={10 * pixel} fill="var(--indigo)" className="num">
            {i + 1}
          </text>
        </g>
      ))}
    </>
  );
});

/** A characteristic's number, beside its only part or between its two, with a line to each. */
function Mark({ no, parts, pixel }: { no: number; parts: readonly [number, number][]; pixel: number }) {
  const [x, y] = [0, 1].map((k) => parts.reduce((sum, p) => sum + p[k], 0) / parts.length);
  const [mx, my] = parts.length === 1 ? [x + 24 * pixel, -y - 24 * pixel] : [x, -y];
  return (
    <g>
      <path
        d={parts.map(([px, py]) => `M${mx} ${my}L${px} ${-py}`).join("")}
        stroke="var(--indigo)"
        strokeDasharray="5 3"
        vectorEffect="non-scaling-stroke"
      />
      <rect
        x={mx - 10 * pixel}
        y={my - 8 * pixel}
        width={20 * pixel}
        height={16 * pixel}
        fill="var(--indigo)"
        vectorEffect="non-scaling-stroke"
      />
      <text x={mx} y={my + 4 * pixel} textAnchor="middle" fontSize={11 * pixel} fill="var(--panel)" className="num">
        {no}
      </text>
    </g>
  );
}

/** The sheet of the section at work, where it was asked to be seen as one. */
export function ShownSheet() {
  const cut = useBench((s) => s.section);
  const scale = useDeviationScale();
  return cut?.sheet && cut.asSheet ? (
    <Sheet cut={cut} sheet={cut.sheet} times={cut.plan.exaggeration ?? cut.sheet.strokes ?? 1} scale={scale} />
  ) : null;
}
