import {
  keepPreviousData,
  useInfiniteQuery,
  useMutation,
  useQueries,
  useQuery,
  useQueryClient,
} from "@tanstack/react-query";
import { useEffect } from "react";
import { say } from "../ui/notices";
import {
  api,
  ApiError,
  take,
  type AlignPlan,
  type FeaturePlan,
  type InspectionPlan,
  type JobKind,
  type JobView,
  type PieceView,
  type PrepareStep,
  type Role,
  type Schemas,
} from "./client";
import { refresh } from "./refresh";
import { runTask, useTasks } from "./tasks";

export const useSession = () =>
  useQuery({ queryKey: ["session"], queryFn: () => take(api.GET("/api/session")), staleTime: 60_000 });

export const useFloor = () => useQuery({ queryKey: ["floor"], queryFn: () => take(api.GET("/api/floor")) });

/** The lists of the floor. */
export type PieceListName = "all" | "waiting" | "draft" | "judged" | "look";

/** Pieces page by page, as far as was asked for. */
export const usePieces = (list: PieceListName, search: string, part?: string) =>
  useInfiniteQuery({
    queryKey: ["pieces", list, search, part],
    initialPageParam: 0,
    queryFn: ({ pageParam: skip }) =>
      take(api.GET("/api/pieces", { params: { query: { list, search: search || undefined, part, skip } } })),
    getNextPageParam: (last, all) => {
      const shown = all.reduce((n, page) => n + page.pieces.length, 0);
      return shown < last.total && last.pieces.length > 0 ? shown : undefined;
    },
    placeholderData: keepPreviousData,
  });

export const usePiece = (id: string) =>
  useQuery({
    queryKey: ["piece", id],
    queryFn: async () => (await take(api.GET("/api/pieces/{id}", { params: { path: { id } } }))) as PieceView,
  });

export const useNominal = (partId: string | undefined) =>
  useQuery({
    queryKey: ["nominal", partId],
    enabled: partId !== undefined,
    queryFn: async () =>
      (await take(api.GET("/api/parts/{id}/nominal", { params: { path: { id: partId! } } }))) ?? null,
    staleTime: Infinity,
  });

export const usePlan = (partId: string | undefined) =>
  useQuery({
    queryKey: ["plan", partId],
    enabled: partId !== undefined,
    queryFn: () => take(api.GET("/api/parts/{id}/plan", { params: { path: { id: partId! } } })),
  });

/** A file's data sheet and what to mind about it. */
export const useSheet = (piece: PieceView) =>
  useQuery({
    queryKey: ["sheet", piece.id, piece.unit, piece.columns],
    enabled: piece.vertices > 0 && !piece.problem,
    queryFn: () => take(api.GET("/api/pieces/{id}/sheet", { params: { path: { id: piece.id } } })),
    staleTime: Infinity,
  });

/** What a characteristic rests on, on what is compared now. */
export const useEvidence = (piece: PieceView, no: number | null, planNumber: number) =>
  useQuery({
    queryKey: ["evidence", piece.id, no, planNumber, piece.run?.compareStage?.deviationsKey],
    enabled: no !== null && piece.run?.compareStage != null,
    retry: false,
    staleTime: Infinity,
    queryFn: () => take(api.GET("/api/pieces/{id}/evidence/{no}", { params: { path: { id: piece.id, no: no! } } })),
  });

/** A plan in words; which revision is in force tells when to look anew. */
export const usePlanWords = (partId: string, number: number) =>
  useQuery({
    queryKey: ["plan-words", partId, number],
    queryFn: () => take(api.GET("/api/parts/{id}/plan/words", { params: { path: { id: partId }, query: { number } } })),
    staleTime: Infinity,
  });

/** The revisions of a plan with what each changed, the newest first, a page at a time. */
export const useRevisions = (partId: string, head: number) =>
  useInfiniteQuery({
    queryKey: ["revisions", partId, head],
    initialPageParam: undefined as number | undefined,
    queryFn: ({ pageParam }) =>
      take(
        api.GET("/api/parts/{id}/plan/revisions", {
          params: { path: { id: partId }, query: { before: pageParam } },
        }),
      ),
    getNextPageParam: (page) => {
      const oldest = page.at(-1)?.number ?? 1;
      return oldest > 1 ? oldest : undefined;
    },
  });

/** What one revision says otherwise than another. */
export const usePlanChanges = (partId: string, from: number, to: number) =>
  useQuery({
    queryKey: ["plan-changes", partId, from, to],
    queryFn: () =>
      take(api.GET("/api/parts/{id}/plan/changes", { params: { path: { id: partId }, query: { from, to } } })),
    staleTime: Infinity,
  });

/** Another way of aligning, tried without being kept; null tries nothing. */
export const useTrial = (
  piece: PieceView,
  planNumber: number,
  alignment: string | null,
  align: AlignPlan | null,
  verdicts: boolean,
) =>
  useQuery({
    queryKey: ["trial", piece.id, planNumber, alignment, JSON.stringify(align), verdicts],
    enabled: align !== null,
    retry: false,
    staleTime: Infinity,
    gcTime: 60_000,
    queryFn: ({ signal }) =>
      take(
        api.POST("/api/pieces/{id}/align/try", {
          params: { path: { id: piece.id } },
          body: { align: align!, verdicts, alignment },
          signal,
        }),
      ),
  });

/** How far the plan's further alignments lie from its own on a piece. */
export const useAlignmentChanges = (piece: PieceView) =>
  useQuery({
    queryKey: ["piece", piece.id, "alignments"],
    enabled: (piece.run?.named.length ?? 0) > 0,
    retry: false,
    queryFn: () => take(api.GET("/api/pieces/{id}/alignments", { params: { path: { id: piece.id } } })),
  });

/** Features like a face that the plan has not yet. */
export const useAlike = (partId: string, planNumber: number, face: number | null, edgeOf?: number | null) =>
  useQuery({
    queryKey: ["alike", partId, planNumber, face, edgeOf ?? null],
    enabled: face !== null,
    retry: false,
    staleTime: Infinity,
    queryFn: () =>
      take(
        api.GET("/api/parts/{id}/plan/alike", {
          params: { path: { id: partId }, query: { face: face!, edgeOf: edgeOf ?? undefined } },
        }),
      ),
  });

/** The edges of a sheet that picked faces make. */
export const useEdges = (partId: string, planNumber: number, faces: readonly number[]) =>
  useQuery({
    queryKey: ["edges", partId, planNumber, faces],
    enabled: faces.length > 0,
    retry: false,
    staleTime: Infinity,
    queryFn: () =>
      take(api.POST("/api/parts/{id}/plan/edges", { params: { path: { id: partId } }, body: { faces: [...faces] } })),
  });

/** The same feature by each criterion that its kind has, for comparison. */
export const useCriteria = (
  piece: PieceView,
  measuredOn: string | null | undefined,
  feature: FeaturePlan | null,
  criteria: readonly NonNullable<FeaturePlan["criterion"]>[],
) =>
  useQueries({
    queries: criteria.map((criterion) => ({
      queryKey: ["criterion", piece.id, measuredOn, JSON.stringify({ ...feature, criterion })],
      enabled: feature !== null,
      retry: false,
      staleTime: Infinity,
      gcTime: 60_000,
      queryFn: () =>
        take(
          api.POST("/api/pieces/{id}/measure", {
            params: { path: { id: piece.id } },
            body: { feature: { ...feature!, criterion } },
          }),
        ),
    })),
  });

/** What features of the plan can make. */
export const useConstructions = (partId: string, planNumber: number, features: readonly string[]) =>
  useQuery({
    queryKey: ["constructions", partId, planNumber, features.join()],
    enabled: features.length > 0,
    retry: false,
    staleTime: Infinity,
    queryFn: () =>
      take(
        api.POST("/api/parts/{id}/plan/constructions", {
          params: { path: { id: partId } },
          body: { features: [...features] },
        }),
      ),
  });

export const useProposals = (
  partId: string,
  planNumber: number,
  faces: readonly number[],
  features: readonly string[] = [],
) =>
  useQuery({
    queryKey: ["proposals", partId, planNumber, faces.join(), features.join()],
    enabled: faces.length + features.length > 0,
    retry: false,
    staleTime: Infinity,
    queryFn: () =>
      take(
        api.POST("/api/parts/{id}/plan/proposals", {
          params: { path: { id: partId } },
          body: { faces: [...faces], features: [...features] },
        }),
      ),
  });

/** All characteristics of a plan as its drawing would write them. */
export const useAsDrawn = (partId: string, planNumber: number, hasNominal: boolean) =>
  useQuery({
    queryKey: ["as-drawn", partId, planNumber],
    enabled: hasNominal,
    retry: false,
    staleTime: Infinity,
    // The one before stays while the next is written, so that nothing jumps.
    placeholderData: (before) => before,
    queryFn: () => take(api.GET("/api/parts/{id}/plan/as-drawn", { params: { path: { id: partId } } })),
  });

/** What steps come to on a scan, whether they are in the plan or not. */
export const usePreview = (piece: PieceView, steps: PrepareStep[] | null) =>
  useQuery({
    queryKey: ["preview", piece.id, piece.unit, piece.columns, JSON.stringify(steps)],
    enabled: steps !== null && piece.vertices > 0 && !piece.problem && piece.nominalId !== null,
    queryFn: ({ signal }) =>
      runTask(
        "Trying the steps",
        (task) =>
          take(
            api.POST("/api/pieces/{id}/preview", {
              params: { path: { id: piece.id } },
              body: { steps: steps! },
              headers: task.headers,
              signal: task.signal,
            }),
          ),
        signal,
      ),
    staleTime: Infinity,
    retry: false,
  });

export const useReports = () => useQuery({ queryKey: ["reports"], queryFn: () => take(api.GET("/api/reports")) });

export const usePeople = () => useQuery({ queryKey: ["people"], queryFn: () => take(api.GET("/api/people")) });

const order: Role[] = ["reader", "inspector", "approver", "administrator"];

/** Whether the signed-in person's role includes another; the server decides all the same. */
export const useMay = (role: Role) => {
  const mine = useSession().data?.role;
  return mine != null && order.indexOf(mine) >= order.indexOf(role);
};

/** What is looked for in the log; empty: anything. */
export type LogSearch = Record<"search" | "from" | "to", string>;

/** The log page by page, as far as was asked for. */
export const useLog = ({ search, from, to }: LogSearch) =>
  useInfiniteQuery({
    queryKey: ["log", search, from, to],
    initialPageParam: 0,
    queryFn: ({ pageParam: skip }) =>
      take(
        api.GET("/api/log", {
          params: { query: { search: search || undefined, from: from || undefined, to: to || undefined, skip } },
        }),
      ),
    getNextPageParam: (last, all) => {
      const shown = all.reduce((n, page) => n + page.lines.length, 0);
      return shown < last.total && last.lines.length > 0 ? shown : undefined;
    },
    placeholderData: keepPreviousData,
  });

/**
 * A change that says what went wrong when it does.
 * @param saidBy Who says it: a notice, or the form itself, where it was typed.
 */
export function useAction<A, R>(
  run: (argument: A) => Promise<R>,
  refresh: (string | undefined)[][] = [],
  saidBy: "notice" | "form" = "notice",
) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: run,
    onSuccess: () => Promise.all(refresh.map((queryKey) => client.invalidateQueries({ queryKey }))),
    onError: (error: Error) => {
      if (saidBy === "notice") {
        say(error.message, "bad");
      }

      if (error instanceof ApiError && error.status === 409) {
        void client.invalidateQueries();
      }
    },
  });
}

export const useStartJob = (pieceId: string) =>
  useAction(
    (kind: JobKind) => take(api.POST("/api/pieces/{id}/jobs", { params: { path: { id: pieceId } }, body: { kind } })),
    [["piece", pieceId]],
  );

/** Edits the plan from what is on the screen; an edit based on an older revision is refused by the server and said. */
export function usePlanEdit(partId: string) {
  const client = useQueryClient();
  return useAction(
    async (edit: { basedOn: number; plan: InspectionPlan }) => {
      const saved = await take(api.PUT("/api/parts/{id}/plan", { params: { path: { id: partId } }, body: edit }));
      client.setQueryData(["plan", partId], saved);
      return saved;
    },
    [["piece"]],
  );
}

/**
 * Changes the plan as it is when the change's turn comes: for what rests on nothing a person saw before, as one more
 * label. Changes made quickly one after another wait for each other.
 */
export function usePlanChange(partId: string) {
  const client = useQueryClient();
  return useMutation({
    scope: { id: `plan ${partId}` },
    mutationFn: async (change: (plan: InspectionPlan) => InspectionPlan) => {
      const now = await client.ensureQueryData<Schemas["PlanView"]>({ queryKey: ["plan", partId] });
      const body = { basedOn: now.number, plan: change(now.plan) };
      client.setQueryData(
        ["plan", partId],
        await take(api.PUT("/api/parts/{id}/plan", { params: { path: { id: partId } }, body })),
      );
    },
    onSuccess: () => client.invalidateQueries({ queryKey: ["piece"] }),
    onError: (error: Error) => {
      say(error.message, "bad");
      void client.invalidateQueries();
    },
  });
}

/** Keeps the plan's report as a layout under a name: as it is once the changes under way are in, like a change of the plan. */
export function useKeepLayout(partId: string) {
  const client = useQueryClient();
  return useMutation({
    scope: { id: `plan ${partId}` },
    mutationFn: async ({ name, forNewParts }: { name: string; forNewParts: boolean }) => {
      const { plan } = await client.ensureQueryData<Schemas["PlanView"]>({ queryKey: ["plan", partId] });
      const body = { report: plan.report ?? {}, forNewParts };
      return take(api.PUT("/api/layouts/{name}", { params: { path: { name } }, body }));
    },
    onSuccess: () => client.invalidateQueries({ queryKey: ["layouts"] }),
    onError: (error: Error) => say(error.message, "bad"),
  });
}

export function usePlanStep(partId: string | undefined, direction: "undo" | "redo") {
  return useAction(
    (basedOn: number) =>
      take(
        api.POST(direction === "undo" ? "/api/parts/{id}/plan/undo" : "/api/parts/{id}/plan/redo", {
          params: { path: { id: partId! } },
          body: { basedOn },
        }),
      ),
    [["plan", partId], ["piece"]],
  );
}

/** An approver releases a revision: its pieces can be issued, and those that come next run by themselves. */
export const useRelease = (partId: string) =>
  useAction(
    (number: number) =>
      take(api.POST("/api/parts/{id}/plan/release", { params: { path: { id: partId } }, body: { number } })),
    [["plan", partId], ["revisions", partId], ["floor"]],
  );

export const useCancelJob = () =>
  useAction((id: string) => take(api.POST("/api/jobs/{id}/cancel", { params: { path: { id } } })));

export const activeJob = (jobs: JobView[]): JobView | undefined =>
  jobs.find((j) => j.state === "queued" || j.state === "running");

interface Change {
  kind: string;
  id: string;
  subject: string;
  share?: number;
  what?: string;
}

/** Listens to the server and refreshes what changed. The browser reconnects by itself; after that everything is looked at again. */
export function useChanges(enabled: boolean) {
  const client = useQueryClient();
  useEffect(() => {
    if (!enabled) {
      return;
    }

    const source = new EventSource("/api/events");
    let opened = false;
    source.onopen = () => {
      if (opened) {
        void client.invalidateQueries();
      }

      opened = true;
    };
    source.addEventListener("change", (e) => {
      const change = JSON.parse((e as MessageEvent<string>).data) as Change;
      if (change.kind === "task") {
        useTasks.getState().tell(change.id, change.share ?? 0, change.what ?? "");
        return;
      }

      void refresh(client, ["piece", change.subject]);
      void refresh(client, ["job", change.id]);
      if (change.kind === "plan") {
        void refresh(client, ["plan", change.subject]);
        void refresh(client, ["piece"]);
      }

      void refresh(client, ["floor"]);
      void refresh(client, ["pieces"]);
      void refresh(client, ["reports"]);
      void refresh(client, ["nominal", change.subject], "active");
    });
    return () => source.close();
  }, [client, enabled]);
}
