import { useCallback, useEffect, useRef, useState } from "react";
import { useNavigate, useParams } from "react-router";
import type { JobKind, LabelPlan, PrepareStep } from "../api/client";
import { activeJob, useMay, useNominal, usePiece, usePlan, usePlanChange, useStartJob } from "../api/hooks";
import { FeatureTable } from "../ledger/FeatureTable";
import { Ledger } from "../ledger/Ledger";
import type { Table } from "../ledger/LedgerFrame";
import type { Row } from "../ledger/rows";
import { facesOf } from "../plan/characteristics";
import { shownMap } from "../plan/maps";
import { facesOfFeatures, nextPicked, planFeatures } from "../plan/features";
import { useCommands } from "../shell/commands";
import { Path } from "../shell/Path";
import { Readout } from "../shell/Readout";
import { useOpened } from "../shell/title";
import { stations, useBench, useBenchOf, type Station } from "../stage/bench";
import { middleAndReach } from "../stage/firstView";
import { flyToFace } from "../stage/flight";
import { usePreparing } from "../stage/preparing";
import { Stage } from "../stage/Stage";
import type { Hit } from "../stage/Picker";
import { Align } from "../stations/align/Align";
import { Compare } from "../stations/compare/Compare";
import { Evaluate } from "../stations/evaluate/Evaluate";
import { Features } from "../stations/features/Features";
import { Issue } from "../stations/issue/Issue";
import { Prepare } from "../stations/prepare/Prepare";
import { Receive } from "../stations/receive/Receive";
import { typing } from "../ui/typing";
import { WorkbenchLayout } from "./WorkbenchLayout";

const sheets = {
  receive: Receive,
  prepare: Prepare,
  align: Align,
  features: Features,
  compare: Compare,
  evaluate: Evaluate,
  issue: Issue,
};

const jobs: readonly { kind: JobKind; name: string }[] = [
  { kind: "run-plan", name: "Run plan: everything that is out of date" },
  { kind: "prepare", name: "Prepare" },
  { kind: "align", name: "Align" },
  { kind: "compare", name: "Compare" },
  { kind: "evaluate", name: "Evaluate" },
];

/** A feature is shown with so many times its own size around it. */
const spans = 2.5;

const none: PrepareStep[] = [];
const noLabels: LabelPlan[] = [];
const valueAlone = ["value"] as const;

/** One piece: path above, stage and worksheet side by side, ledger and readout below. */
export function Workbench() {
  const { id = "", station: named } = useParams();
  const navigate = useNavigate();
  const piece = usePiece(id);
  const nominal = useNominal(piece.data?.partId);
  const plan = usePlan(piece.data?.partId);
  const startJob = useStartJob(id);
  const show = useOpened((s) => s.show);
  const { set, map, alignment, characteristic, features, pickOn } = useBenchOf(
    "set",
    "map",
    "alignment",
    "characteristic",
    "features",
    "pickOn",
  );
  const station = (stations.find((s) => s.key === named)?.key ?? furthest(piece.data?.stations)) as Station;
  const go = useCallback((to: Station) => void navigate(`/pieces/${id}/${to}`, { replace: true }), [id, navigate]);

  const data = piece.data;
  const stored = plan.data;
  useEffect(() => {
    if (data && stored) {
      show({
        partId: data.partId,
        text: `${data.partNumber} rev ${data.revision} · plan ${stored.number} · piece ${data.serial}`,
        plan: { number: stored.number, canUndo: stored.canUndo, canRedo: stored.canRedo },
      });
    }

    return () => show(null);
  }, [data, stored, show]);

  // The band of the plan is the start; from then on it is the viewer's own.
  const { lower, upper, ramp } = stored?.plan.compare ?? {};
  const [colours, steps] = [ramp?.kind ?? "blue-rust", ramp?.steps ?? null];
  useEffect(() => {
    if (lower !== undefined && upper !== undefined) {
      set({ limits: { lower, upper } });
    }
  }, [lower, upper, id, set]);
  useEffect(() => set({ ramp: { kind: colours, steps } }), [colours, steps, id, set]);

  // Another map than that of the deviation is looked at where parts are compared, and put into figures.
  const onMaps = station === "compare" || station === "issue";
  useEffect(() => {
    if (!onMaps) {
      set({ map: null, mapLimits: {}, onlyFaces: [], picking: false });
    }
  }, [onMaps, set]);

  useEffect(() => {
    set({ faces: [], features: [], measured: null, characteristic: null, pinning: false, alignment: null });
    set({ map: null, mapLimits: {}, onlyFaces: [], picking: false });
    usePreparing.getState().clear();
  }, [id, set]);

  useEffect(() => {
    const keys = (e: KeyboardEvent) => {
      if (typing(e) || e.ctrlKey || e.metaKey || e.altKey) {
        return;
      }

      const index = Number(e.key) - 1;
      if (stations[index]) {
        go(stations[index].key);
      } else if (e.key === "Escape") {
        set({ faces: [], features: [], measured: null, characteristic: null, pinning: false });
      } else if (e.key.toLowerCase() === "f") {
        useBench.getState().view?.fit();
      } else if (e.key.toLowerCase() === "b") {
        set({ before: true });
      }
    };
    const released = (e: KeyboardEvent) => e.key.toLowerCase() === "b" && set({ before: false });
    window.addEventListener("keydown", keys);
    window.addEventListener("keyup", released);
    return () => {
      window.removeEventListener("keydown", keys);
      window.removeEventListener("keyup", released);
    };
  }, [go, set]);

  useEffect(() => {
    set({ hover: null });
    usePreparing.getState().set({ tool: null });
  }, [station, set]);

  // Who may only look finds the station's actions switched off; the server refuses them anyway.
  const mayWork = useMay("inspector");
  const busy = !mayWork || (data && activeJob(data.jobs) !== undefined) || startJob.isPending;
  const begin = useCallback((kind: JobKind) => startJob.mutate(kind), [startJob]);

  // When "Run plan" ends, the person is taken to its verdicts.
  const finished = data?.jobs[0];
  const seen = useRef<string | null>(null);
  useEffect(() => {
    if (finished?.kind === "run-plan" && (finished.state === "queued" || finished.state === "running")) {
      seen.current = finished.id;
    } else if (finished && finished.id === seen.current && finished.state === "done") {
      seen.current = null;
      go("evaluate");
    }
  }, [finished, go]);

  const { mutate: changePlan } = usePlanChange(data?.partId ?? "");
  const labelled = useCallback(
    (change: (labels: LabelPlan[]) => LabelPlan[]) =>
      changePlan((now) => ({ ...now, compare: { ...now.compare!, labels: change(now.compare?.labels ?? []) } })),
    [changePlan],
  );

  const faceCount = nominal.data?.faces;
  const pick = useCallback(
    (hit: Hit | null, extend: boolean) => {
      const bench = useBench.getState();
      if (bench.pinning && hit && hit.deviation !== null && Number.isFinite(hit.deviation)) {
        labelled((labels) => [...labels, { point: [...hit.point] }]);
      } else {
        bench.picks.at(-1)?.(hit, extend);
      }
    },
    [labelled],
  );

  const pickRow = useCallback(
    ({ plan: c, result }: Pick<Row, "plan" | "result">) => {
      set({ characteristic: c.no, faces: facesOf(c, stored ? planFeatures(stored.plan) : []) });
      if (result?.view) {
        useBench.getState().view?.fly(result.view.target, result.view.direction, result.view.size);
      }

      if (station !== "evaluate") {
        go("evaluate");
      }
    },
    [set, stored, station, go],
  );

  // The table under the stage follows the station until another is asked for.
  const [asked, setAsked] = useState<{ station: Station; table: Table } | null>(null);
  const table = asked?.station === station ? asked.table : station === "features" ? "features" : "characteristics";
  const onTable = (to: Table) => setAsked({ station, table: to });
  const pickFeature = (id: string, extend: boolean) => {
    const all = stored ? planFeatures(stored.plan) : [];
    const next = nextPicked(useBench.getState().features, id, extend);
    const faces = facesOfFeatures(all, next);
    set({ features: next, faces });
    const shown = nominal.data?.faces;
    const [face, side] = [shown?.[faces[0]], all.find((f) => f.id === id)?.measured?.edgeOf];
    const view = useBench.getState().view;
    const region = all.find((f) => f.id === id)?.measured?.region;
    if (region && view && !extend) {
      flyToFace(view, undefined, region.center, spans * Math.sqrt(region.area));
    } else if (shown && face && view && !extend) {
      // An edge is seen from the side that it belongs to, not from its wall.
      const faced = side == null ? face : shown[side];
      const { middle, reach } = middleAndReach(faces.map((f) => shown[f]));
      flyToFace(view, faced, middle, spans * reach);
    }

    if (station !== "features") {
      go("features");
    }
  };

  useCommands("This piece", [
    ...(data ? jobs.map((j) => ({ name: j.name, disabled: Boolean(busy), run: () => begin(j.kind) })) : []),
    ...stations.map((s, i) => ({ name: `Station ${s.name}`, keys: `${i + 1}`, run: () => go(s.key) })),
    { name: "Show everything", keys: "F", run: () => useBench.getState().view?.fit() },
    {
      name: "Let go of what is picked",
      keys: "Esc",
      run: () => set({ faces: [], features: [], measured: null, characteristic: null, pinning: false }),
    },
  ]);
  useCommands(
    "Characteristics",
    (stored?.plan.characteristics ?? []).map((c) => ({
      name: `${c.no} ${c.name}`,
      run: () =>
        pickRow({
          plan: c,
          result: data?.run?.characteristics.find((r) => r.plan.no === c.no) ?? null,
        }),
    })),
  );

  if (piece.error) {
    return (
      <p className="p-6 text-bad" role="alert">
        {piece.error.message}
      </p>
    );
  }

  if (!data || !stored || nominal.isPending) {
    return <p className="p-6">Opening the piece …</p>;
  }

  // The part is shown as it stands for what is picked.
  const picked = stored.plan.characteristics?.find((c) => c.no === characteristic);
  const feature = planFeatures(stored.plan).find((f) => f.id === features[0]);
  const standings: Partial<Record<Station, string | null>> = {
    align: alignment,
    evaluate: picked && (picked.alignment ?? null),
    // A place of the scan is told in the plan's own alignment.
    features: !feature && pickOn === "scan" ? null : feature?.alignment,
  };
  const shown = shownMap(stored.plan, map);
  const Sheet = sheets[station];
  return (
    <div className="flex h-full min-h-0 flex-col" data-faces={faceCount?.length}>
      <Path stations={data.stations} current={station} onGo={go} />
      <WorkbenchLayout
        stage={
          <Stage
            piece={data}
            nominal={nominal.data ?? null}
            station={station}
            alignment={standings[station]}
            steps={stored.plan.prepare?.steps ?? none}
            map={shown}
            labels={stored.plan.compare?.labels ?? noLabels}
            labelsSay={stored.plan.compare?.labelsSay ?? valueAlone}
            onRemoveLabel={mayWork ? (index) => labelled((all) => all.filter((_, i) => i !== index)) : null}
            onPick={pick}
          />
        }
        ledger={(folded, onFold) =>
          table === "features" ? (
            <FeatureTable piece={data} plan={stored} frame={{ table, onTable, folded, onFold }} onPick={pickFeature} />
          ) : (
            <Ledger piece={data} plan={stored} frame={{ table, onTable, folded, onFold }} onPick={pickRow} />
          )
        }
        worksheet={
          <aside className="h-full min-h-0" aria-label={`Worksheet: ${station}`}>
            <Sheet
              key={data.id}
              piece={data}
              plan={stored}
              nominal={nominal.data ?? null}
              busy={busy ?? false}
              start={begin}
            />
          </aside>
        }
      />
      <Readout piece={data} nominal={nominal.data ?? null} map={shown} />
    </div>
  );
}

/** Opening a piece leads to the first station that is not done, or the last one. */
function furthest(list: { key: string; state: string }[] | undefined): string {
  return list?.find((s) => s.state !== "done" && s.key !== "issue")?.key ?? "evaluate";
}
