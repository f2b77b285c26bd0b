import { create } from "zustand";

/** Something the server works on while a request waits: how far it is, and how to stop it. */
export interface Task {
  id: string;
  what: string;
  share: number;
  cancel: () => void;
}

interface Tasks {
  running: Task[];
  begin: (task: Task) => void;
  tell: (id: string, share: number, what: string) => void;
  end: (id: string) => void;
}

export const useTasks = create<Tasks>((set) => ({
  running: [],
  begin: (task) => set((s) => ({ running: [...s.running, task] })),
  tell: (id, share, what) =>
    set((s) =>
      s.running.some((t) => t.id === id)
        ? { running: s.running.map((t) => (t.id === id ? { ...t, share, what } : t)) }
        : s,
    ),
  end: (id) => set((s) => ({ running: s.running.filter((t) => t.id !== id) })),
}));

export const cancelled = "Cancelled.";

/**
 * Runs a request as a task: the server sends its progress under the task's name, and cancelling it ends the request,
 * which the server notices at once.
 */
export async function runTask<T>(
  what: string,
  request: (task: { headers: Record<string, string>; signal: AbortSignal }) => Promise<T>,
  outer?: AbortSignal,
): Promise<T> {
  const id = crypto.randomUUID();
  const abort = new AbortController();
  const stop = () => abort.abort();
  outer?.addEventListener("abort", stop);
  useTasks.getState().begin({ id, what, share: 0, cancel: stop });
  try {
    return await request({ headers: { "Bostel-Task": id }, signal: abort.signal });
  } catch (error) {
    throw abort.signal.aborted ? new Error(cancelled) : error;
  } finally {
    outer?.removeEventListener("abort", stop);
    useTasks.getState().end(id);
  }
}
