import { useEffect, useRef } from "react";
import { create } from "zustand";

/** Something a person can do here, found by name. */
export interface Command {
  name: string;
  /** The same by key, as the shortcut sheet writes it. */
  keys?: string;
  disabled?: boolean;
  run: () => void;
}

interface Commands {
  groups: ReadonlyMap<string, readonly Command[]>;
  put: (group: string, commands: readonly Command[] | null) => void;
}

/** Everything that can be done where the person is, by groups; each page and station puts its own in. */
export const useCommandList = create<Commands>((set) => ({
  groups: new Map(),
  put: (group, commands) =>
    set((s) => {
      const groups = new Map(s.groups);
      if (commands) {
        groups.set(group, commands);
      } else {
        groups.delete(group);
      }

      return { groups };
    }),
}));

/** Offers commands while the component is there. What they do may change with every render; what is listed, with their names. */
export function useCommands(group: string, commands: readonly Command[]) {
  const latest = useRef(commands);
  useEffect(() => {
    latest.current = commands;
  });
  const listed = JSON.stringify(commands.map((c) => [c.name, c.keys, c.disabled]));
  useEffect(() => {
    const { put } = useCommandList.getState();
    put(
      group,
      latest.current.map((c, i) => ({ ...c, run: () => latest.current[i]?.run() })),
    );
    return () => put(group, null);
  }, [group, listed]);
}
