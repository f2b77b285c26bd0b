import { useEffect, useRef, useState } from "react";
import { api, take, type PrepareStep, type SelectionTerm } from "../api/client";
import { runTask } from "../api/tasks";
import { say } from "../ui/notices";
import { useBench } from "./bench";
import { drawingFor } from "./drawing";
import { usePreparing } from "./preparing";

/** Lets selections be drawn on the stage, and has the server say what they come to. */
export function SelectOverlay({ pieceId, steps }: { pieceId: string; steps: PrepareStep[] }) {
  const view = useBench((s) => s.view);
  const { tool, terms, set } = usePreparing();
  const [outline, setOutline] = useState<{ path: [number, number][]; closed: boolean }>({ path: [], closed: false });
  const resolve = useResolver(pieceId, steps);
  const live = useRef(false);

  useEffect(() => {
    if (!view || !tool) {
      return;
    }

    const options = () => usePreparing.getState();
    const replaced = () => {
      const all = options().terms;
      return live.current ? all.slice(0, -1) : all;
    };
    view.controls.drawing = drawingFor(tool, view, options, {
      live: (term) => {
        const all = [...replaced(), term];
        live.current = true;
        set({ terms: all });
      },
      done: (term) => {
        const all = [...replaced(), term];
        live.current = false;
        set({ terms: all });
      },
      outline: (path, closed) => setOutline({ path: [...path], closed }),
    });
    return () => {
      view.controls.drawing = null;
    };
  }, [view, tool, set]);

  useEffect(() => resolve(terms), [terms, resolve]);

  useEffect(() => {
    const escape = (e: KeyboardEvent) => e.key === "Escape" && set({ tool: null });
    window.addEventListener("keydown", escape);
    return () => window.removeEventListener("keydown", escape);
  }, [set]);

  const points = outline.path.map((p) => p.join(",")).join(" ");
  return (
    <>
      <svg className="pointer-events-none absolute inset-0 h-full w-full" aria-hidden>
        {outline.closed ? (
          <polygon points={points} className="fill-brass/15 stroke-brass" strokeWidth={1.5} strokeDasharray="5 3" />
        ) : (
          <polyline points={points} className="fill-none stroke-brass" strokeWidth={4} strokeLinecap="round" />
        )}
      </svg>
      {tool && (
        <p className="pointer-events-none absolute top-3 left-1/2 w-max max-w-[90%] -translate-x-1/2 rounded border border-line bg-panel px-2 py-1 text-xs">
          {hints[tool]} Right drag turns the part, Esc ends.
        </p>
      )}
    </>
  );
}

const hints = {
  lasso: "Draw round what to select.",
  box: "Draw a rectangle over what to select.",
  brush: "Paint over what to select.",
  grow: "Press on a triangle and drag: right grows, left shrinks.",
  surface: "Click a surface: plane, cylinder, cone, sphere or torus.",
  piece: "Click a connected piece.",
  side: "Click the surface whose far side is to be selected: everything beyond its plane.",
};

/** Asks what terms select; while an answer is under way only the latest question waits. */
function useResolver(pieceId: string, steps: PrepareStep[]) {
  const key = JSON.stringify(steps);
  const waiting = useRef<SelectionTerm[] | null>(null);
  const running = useRef(false);
  const [resolve, setResolve] = useState<(terms: SelectionTerm[]) => void>(() => () => undefined);
  useEffect(() => {
    const run = async () => {
      if (running.current) {
        return;
      }

      running.current = true;
      while (waiting.current) {
        const terms = waiting.current;
        waiting.current = null;
        if (terms.length === 0) {
          usePreparing.getState().set({ selected: null });
          continue;
        }

        try {
          const found = await runTask("Selecting", (task) =>
            take(
              api.POST("/api/pieces/{id}/selection", {
                params: { path: { id: pieceId } },
                body: { steps: JSON.parse(key) as PrepareStep[], terms },
                headers: task.headers,
                signal: task.signal,
              }),
            ),
          );
          const mask = Uint8Array.from(atob(found.mask), (c) => c.charCodeAt(0));
          usePreparing.getState().set({ selected: { count: found.count, of: found.of, area: found.area, mask } });
        } catch (error) {
          say((error as Error).message, "bad");
          usePreparing.getState().set({ terms: terms.slice(0, -1) });
        }
      }

      running.current = false;
    };
    setResolve(() => (terms: SelectionTerm[]) => {
      waiting.current = terms;
      void run();
    });
  }, [pieceId, key]);
  return resolve;
}
