import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { api, take, type JobView } from "./client";

interface PartJob {
  running: boolean;
  error: string | null;
  /** Begins work on a part; `done` is called once it is over and went well. */
  start: (begin: () => Promise<JobView>, done?: () => void) => void;
}

/** Work on a part itself, as its nominal: followed to its end, and what went wrong is said beside what began it. */
export function usePartJob(partId: string): PartJob {
  const client = useQueryClient();
  const [id, setId] = useState<string | null>(null);
  const [refused, setRefused] = useState<string | null>(null);
  const after = useRef<(() => void) | undefined>(undefined);
  const job = useQuery({
    queryKey: ["job", id],
    enabled: id !== null,
    queryFn: () => take(api.GET("/api/jobs/{id}", { params: { path: { id: id! } } })),
  });
  const state = job.data?.state;
  const running = id !== null && (state === undefined || state === "queued" || state === "running");
  useEffect(() => {
    if (state === "done") {
      after.current?.();
      after.current = undefined;
      void client.invalidateQueries({ queryKey: ["nominal", partId] });
      void client.invalidateQueries({ queryKey: ["piece"] });
    }
  }, [state, client, partId]);
  return {
    running,
    error: refused ?? (state === "failed" ? (job.data?.error ?? "It failed.") : null),
    start: (begin, done) => {
      setRefused(null);
      after.current = done;
      begin().then(
        (made) => setId(made.id),
        (e: Error) => setRefused(e.message),
      );
    },
  };
}
