import type { Schemas } from "../api/client";
import { stations, type Station } from "../stage/bench";

const marks: Record<string, { text: string; className: string }> = {
  done: { text: "done", className: "bg-good" },
  notStarted: { text: "not started", className: "border border-soft" },
  needsLook: { text: "needs a look", className: "bg-brass" },
  outOfDate: { text: "out of date", className: "border-2 border-brass" },
};

/** The seven stations, each with its result and whether that still holds. */
export function Path({
  stations: list,
  current,
  onGo,
}: {
  stations: Schemas["StationView"][];
  current: Station;
  onGo: (s: Station) => void;
}) {
  return (
    <nav aria-label="The path" className="grid shrink-0 grid-cols-7 border-b border-line bg-panel">
      {stations.map((s, i) => {
        const state = list.find((l) => l.key === s.key);
        const mark = marks[state?.state ?? "notStarted"];
        const here = s.key === current;
        return (
          <button
            key={s.key}
            type="button"
            onClick={() => onGo(s.key)}
            aria-current={here ? "step" : undefined}
            data-testid={`station-${s.key}`}
            data-state={state?.state}
            className={`border-r border-line px-3 py-1.5 text-left last:border-r-0 ${here ? "bg-tint shadow-[inset_0_-2px_0_var(--indigo)]" : "hover:bg-page"}`}
          >
            <span className="flex items-center gap-1.5 font-semibold">
              <span className="num text-soft">{i + 1}</span> {s.name}
              <span className={`ml-auto size-2.5 rounded-full ${mark.className}`} title={mark.text} />
              <span className="sr-only">{mark.text}</span>
            </span>
            <span className="block truncate text-xs text-soft">{state?.line}</span>
          </button>
        );
      })}
    </nav>
  );
}
