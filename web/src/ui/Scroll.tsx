import type { ReactNode } from "react";

/** What scrolls is reached by the keyboard and has a name, so that arrow keys move it and a screen reader says what it is. */
export function Scroll({ name, className = "", children }: { name: string; className?: string; children: ReactNode }) {
  return (
    // eslint-disable-next-line jsx-a11y-x/no-noninteractive-tabindex -- without it the keyboard cannot scroll here
    <div role="region" aria-label={name} tabIndex={0} className={`overflow-auto ${className}`}>
      {children}
    </div>
  );
}
