import { useBench } from "./bench";

const axes: readonly { name: string; direction: number[]; x: number; y: number }[] = [
  { name: "Z+", direction: [0, 0, 1], x: 50, y: 12 },
  { name: "Y+", direction: [0, 1, 0], x: 84, y: 31 },
  { name: "X+", direction: [1, 0, 0], x: 84, y: 69 },
  { name: "Z−", direction: [0, 0, -1], x: 50, y: 88 },
  { name: "Y−", direction: [0, -1, 0], x: 16, y: 69 },
  { name: "X−", direction: [-1, 0, 0], x: 16, y: 31 },
];

/** Six lettered discs around a ring: click to look along an axis, Shift-click to roll by 90°; the middle shows everything. */
export function Rosette() {
  const view = useBench((s) => s.view);
  const look = (direction: number[], roll: boolean) => {
    if (!view) {
      return;
    }

    if (roll) {
      const { right } = view.controls.axes();
      view.look({ ...view.figureCamera(), up: right.toArray() });
    } else {
      view.fit(direction);
    }
  };
  return (
    <svg
      width="96"
      height="96"
      viewBox="0 0 100 100"
      className="absolute bottom-2 left-2"
      role="group"
      aria-label="Look along an axis"
    >
      <circle cx="50" cy="50" r="38" fill="none" stroke="var(--line)" strokeWidth="2" />
      {axes.map((a) => (
        <g
          key={a.name}
          role="button"
          tabIndex={0}
          aria-label={`Look from ${a.name}`}
          className="cursor-pointer"
          onClick={(e) => look(a.direction, e.shiftKey)}
          onKeyDown={(e) => e.key === "Enter" && look(a.direction, e.shiftKey)}
        >
          <circle cx={a.x} cy={a.y} r="11.5" fill="var(--panel)" stroke="var(--indigo)" strokeWidth="1.5" />
          <text x={a.x} y={a.y + 4} textAnchor="middle" fontSize="11" fill="var(--ink)" className="num select-none">
            {a.name}
          </text>
        </g>
      ))}
      <g
        role="button"
        tabIndex={0}
        aria-label="Show everything"
        className="cursor-pointer"
        onClick={() => view?.fit()}
        onKeyDown={(e) => e.key === "Enter" && view?.fit()}
      >
        <circle cx="50" cy="50" r="14" fill="var(--indigo)" />
        <text x="50" y="54" textAnchor="middle" fontSize="11" fill="var(--panel)" className="select-none">
          all
        </text>
      </g>
    </svg>
  );
}
