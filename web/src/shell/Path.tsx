import type { Schemas } from "../api/client";
import { stations, type Station } from "../stage/bench";

type State = Schemas["StationView"]["state"];

const words: Record<State, string> = {
  done: "done",
  notStarted: "not started",
  needsLook: "needs a look",
  outOfDate: "out of date",
};

/** Told by shape as well as colour: a disc with a tick, an empty ring, a triangle, a broken ring with an arrow. */
function StateShape({ state }: { state: State }) {
  const shape = {
    done: (
      <>
        <circle cx="7" cy="7" r="6" fill="var(--good)" />
        <path d="M4 7.2 6.2 9.4 10 5" fill="none" stroke="var(--panel)" strokeWidth="1.7" />
      </>
    ),
    notStarted: <circle cx="7" cy="7" r="5.2" fill="none" stroke="var(--soft)" strokeDasharray="2 2" />,
    needsLook: (
      <>
        <path d="M7 1 13.2 12.4H.8Z" fill="var(--brass)" />
        <path d="M7 5v3.6M7 9.8v1.3" stroke="var(--panel)" strokeWidth="1.5" />
      </>
    ),
    outOfDate: (
      <>
        <path d="M11.6 9.4A5.2 5.2 0 1 1 11 3.6" fill="none" stroke="var(--brass)" strokeWidth="2" />
        <path d="M13.2 1v4.6H8.8Z" fill="var(--brass)" />
      </>
    ),
  }[state];
  return (
    <svg width="14" height="14" className="ml-auto shrink-0" aria-hidden="true">
      {shape}
    </svg>
  );
}

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
        const how = state?.state ?? "notStarted";
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
              <StateShape state={how} />
              <span className="sr-only">{words[how]}</span>
            </span>
            <span className="block truncate text-xs text-soft" title={`${words[how]}: ${state?.line ?? ""}`}>
              {(how === "needsLook" || how === "outOfDate") && <span className="text-brass">{words[how]} · </span>}
              {state?.line}
            </span>
          </button>
        );
      })}
    </nav>
  );
}
