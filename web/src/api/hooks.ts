import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { say } from "../ui/notices";
import { api, ApiError, take, type InspectionPlan, type JobView, type PieceView, type PrepareStep } from "./client";
import { refresh } from "./refresh";

export const useSession = () =>
  useQuery({ queryKey: ["session"], queryFn: () => take(api.GET("/api/session")), staleTime: 60_000 });

export const useFloor = () => useQuery({ queryKey: ["floor"], queryFn: () => take(api.GET("/api/floor")) });

export const usePiece = (id: string) =>
  useQuery({
    queryKey: ["piece", id],
    queryFn: () => take(api.GET("/api/pieces/{id}", { params: { path: { id } } })),
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

/** What steps come to on a scan, whether they are in the plan or not. */
export const usePreview = (piece: PieceView, steps: PrepareStep[] | null) =>
  useQuery({
    queryKey: ["preview", piece.id, piece.unit, piece.columns, JSON.stringify(steps)],
    enabled: steps !== null && piece.vertices > 0 && !piece.problem && piece.nominalId !== null,
    queryFn: () =>
      take(api.POST("/api/pieces/{id}/preview", { params: { path: { id: piece.id } }, body: { steps: steps! } })),
    staleTime: Infinity,
    retry: false,
  });

export const useFigures = (pieceId: string) =>
  useQuery({
    queryKey: ["figures", pieceId],
    queryFn: () => take(api.GET("/api/pieces/{id}/figures", { params: { path: { id: pieceId } } })),
  });

export const useReports = () => useQuery({ queryKey: ["reports"], queryFn: () => take(api.GET("/api/reports")) });

export const useLog = () => useQuery({ queryKey: ["log"], queryFn: () => take(api.GET("/api/log")) });

/** A change that says what went wrong when it does. */
export function useAction<A, R>(run: (argument: A) => Promise<R>, refresh: (string | undefined)[][] = []) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: run,
    onSuccess: () => Promise.all(refresh.map((queryKey) => client.invalidateQueries({ queryKey }))),
    onError: (error: Error) => {
      say(error.message, "bad");
      if (error instanceof ApiError && error.status === 409) {
        void client.invalidateQueries();
      }
    },
  });
}

export const useStartJob = (pieceId: string) =>
  useAction(
    (job: { kind: string; transform?: number[]; refine?: boolean }) =>
      take(
        api.POST("/api/pieces/{id}/jobs", {
          params: { path: { id: pieceId } },
          body: { kind: job.kind, transform: job.transform ?? null, refine: job.refine ?? null },
        }),
      ),
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

export const useCancelJob = () =>
  useAction((id: string) => take(api.POST("/api/jobs/{id}/cancel", { params: { path: { id } } })));

export const activeJob = (jobs: JobView[]): JobView | undefined =>
  jobs.find((j) => j.state === "queued" || j.state === "running");

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
      const change = JSON.parse((e as MessageEvent<string>).data) as { kind: string; id: string; subject: string };
      void refresh(client, ["piece", change.subject]);
      void refresh(client, ["job", change.id]);
      if (change.kind === "plan") {
        void refresh(client, ["plan", change.subject]);
        void refresh(client, ["piece"]);
      }

      void refresh(client, ["floor"]);
      void refresh(client, ["reports"]);
      void refresh(client, ["nominal", change.subject], "active");
    });
    return () => source.close();
  }, [client, enabled]);
}
