import type { ReactNode } from "react";
import { Scroll } from "./Scroll";

/** A worksheet: one task, its inputs and results from top to bottom, the primary action at its foot. */
export function Worksheet({
  title,
  lead,
  children,
  action,
}: {
  title: string;
  lead: string;
  children: ReactNode;
  action?: ReactNode;
}) {
  return (
    <div className="flex h-full min-h-0 flex-col" data-testid="worksheet">
      <Scroll name={title} className="min-h-0 flex-1 space-y-4 p-4">
        <div>
          <h2 className="text-base font-semibold">{title}</h2>
          <p className="text-soft">{lead}</p>
        </div>
        {children}
      </Scroll>
      {action && <div className="flex flex-wrap gap-2 border-t border-line p-3">{action}</div>}
    </div>
  );
}

export function Block({ title, children }: { title: string; children: ReactNode }) {
  return (
    <section>
      <h3 className="mb-1 text-xs font-semibold tracking-wide text-soft uppercase">{title}</h3>
      {children}
    </section>
  );
}

/** A remark that needs a look, with what to do. */
export function Attention({ children }: { children: ReactNode }) {
  return (
    <div className="rounded border border-brass p-2" role="note">
      {children}
    </div>
  );
}
