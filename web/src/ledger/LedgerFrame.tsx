import { ChevronDown, ChevronUp } from "lucide-react";
import type { ReactNode } from "react";
import { OneOf } from "../ui/OneOf";

export type Table = "characteristics" | "features";

export interface FrameProps {
  table: Table;
  onTable: (table: Table) => void;
  folded: boolean;
  onFold: () => void;
}

const tables: readonly { value: Table; name: string }[] = [
  { value: "characteristics", name: "Characteristics" },
  { value: "features", name: "Features" },
];

/** The line over a table under the stage: which table, its counts and tools; below it the table, unless it is folded. */
export function LedgerFrame({
  table,
  onTable,
  folded,
  onFold,
  head,
  children,
}: FrameProps & { head: ReactNode; children: ReactNode }) {
  return (
    <section aria-label={`Ledger of ${table}`} className="@container flex h-full flex-col bg-panel">
      <div className="flex h-8 shrink-0 items-center gap-3 px-3">
        <button
          type="button"
          onClick={onFold}
          aria-expanded={!folded}
          aria-label="Ledger"
          title={folded ? "Unfold the ledger" : "Fold the ledger to this line"}
        >
          {folded ? <ChevronUp size={14} /> : <ChevronDown size={14} />}
        </button>
        <OneOf look="tabs" label="Table" options={tables} value={table} onChange={onTable} />
        {head}
      </div>
      {!folded && children}
    </section>
  );
}

/** A column's name that sorts by it. */
export function Head<K extends string>({
  label,
  by,
  left,
  sort,
  setSort,
  className = "",
}: {
  label: string;
  by: K;
  left?: boolean;
  sort: K;
  setSort: (k: K) => void;
  className?: string;
}) {
  return (
    <th
      className={`px-2 font-normal ${left ? "text-left" : "text-right"} ${className}`}
      aria-sort={sort === by ? "ascending" : undefined}
    >
      <button type="button" onClick={() => setSort(by)} className={sort === by ? "font-semibold text-ink" : ""}>
        {label}
      </button>
    </th>
  );
}

/** Up and down step through the rows of a table body, Enter and the space bar pick one. */
export const stepping =
  (body: HTMLElement | null, count: number, index: number, pick: (index: number) => void) =>
  (e: React.KeyboardEvent) => {
    const by = e.key === "ArrowDown" ? 1 : e.key === "ArrowUp" ? -1 : e.key === "Enter" || e.key === " " ? 0 : null;
    const next = by === null ? -1 : index + by;
    if (next >= 0 && next < count) {
      e.preventDefault();
      pick(next);
      body?.querySelectorAll<HTMLTableRowElement>("tr")[next]?.focus();
    }
  };
