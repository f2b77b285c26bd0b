import { create } from "zustand";

export interface Notice {
  id: number;
  text: string;
  tone: "plain" | "bad";
}

/** Short messages. Bad ones stay until they are closed. */
export const useNotices = create<{ notices: Notice[]; drop: (id: number) => void }>((set) => ({
  notices: [],
  drop: (id) => set((s) => ({ notices: s.notices.filter((n) => n.id !== id) })),
}));

let next = 1;

export function say(text: string, tone: Notice["tone"] = "plain") {
  const notice = { id: next++, text, tone };
  useNotices.setState((s) => ({ notices: [...s.notices.filter((n) => n.text !== text), notice].slice(-4) }));
  if (tone === "plain") {
    setTimeout(() => useNotices.getState().drop(notice.id), 5000);
  }
}
