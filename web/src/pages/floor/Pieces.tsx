import { Download, Search } from "lucide-react";
import { useDeferredValue, useState } from "react";
import type { Schemas } from "../../api/client";
import { useMay, usePieces, type PieceListName } from "../../api/hooks";
import { IssueReports } from "../../register/Signing";
import { count } from "../../ui/format";
import { OneOf } from "../../ui/OneOf";
import { Button, Check, linkButton } from "../../ui/parts";
import { PieceLine } from "./PieceLine";

const lists: { value: PieceListName; name: string; empty: string }[] = [
  { value: "look", name: "Needs a look", empty: "Nothing needs a look: every judged piece conforms or is reported." },
  {
    value: "waiting",
    name: "Waiting",
    empty: "Nothing waits. Drop a scan anywhere, or capture a piece on the Devices page.",
  },
  { value: "draft", name: "To issue", empty: "No report waits: every judged piece is issued." },
  { value: "judged", name: "Judged", empty: "No piece has been judged yet." },
  { value: "all", name: "All", empty: "There is no piece yet." },
];

/** The pieces in lists that hold for thousands; those whose reports wait are issued together. */
export function Pieces({ part, partName, onAll }: { part: string | null; partName: string | null; onAll: () => void }) {
  const [list, setList] = useState<PieceListName>("all");
  const [text, setText] = useState("");
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set());
  const [signing, setSigning] = useState(false);
  const mayIssue = useMay("inspector") && list === "draft";
  const search = useDeferredValue(text.trim());
  const pieces = usePieces(list, search, part ?? undefined);
  const shown = pieces.data?.pages.flatMap((p) => p.pieces) ?? [];
  const ready = mayIssue ? shown.filter(isReady).map((p) => p.id) : [];
  const toIssue = ready.filter((id) => chosen.has(id));
  const total = pieces.data?.pages[0]?.total ?? 0;
  return (
    <section aria-label="Pieces">
      <div className="mb-2 flex flex-wrap items-center gap-2">
        <h2 className="text-base font-semibold">Pieces</h2>
        <OneOf label="Which pieces" options={lists} value={list} onChange={setList} />
        {partName && (
          <>
            <Button className="h-7 px-2" onClick={onAll}>
              of {partName} ×
            </Button>
            <a className={`${linkButton} h-7 px-2`} href={`/api/parts/${part}/table`}>
              <Download size={14} aria-hidden /> Table, XLSX
            </a>
          </>
        )}
        <span className="num text-soft" role="status">
          {pieces.isPending ? "" : count(total)}
        </span>
        <label className="ml-auto flex h-8 items-center gap-2 rounded border border-line bg-panel px-2">
          <Search size={14} />
          <span className="sr-only">Search pieces</span>
          <input
            className="w-44 bg-transparent outline-none"
            placeholder="serial or part number"
            value={text}
            onChange={(e) => setText(e.target.value)}
          />
        </label>
      </div>
      {pieces.error && (
        <p className="text-bad" role="alert">
          {pieces.error.message}
        </p>
      )}
      {!pieces.isPending && shown.length === 0 && (
        <p className="text-soft">
          {search
            ? `No piece has “${search}” in its serial or part number.`
            : lists.find((l) => l.value === list)!.empty}
        </p>
      )}
      {ready.length > 0 && (
        <div className="mb-2 flex flex-wrap items-center gap-3">
          <Check
            checked={toIssue.length === ready.length}
            onChange={(on) => setChosen(new Set(on ? ready : []))}
          >{`All ${count(ready.length)} that are ready`}</Check>
          <Button tone="primary" disabled={toIssue.length === 0} onClick={() => setSigning(true)}>
            {toIssue.length === 1 ? "Issue 1 report …" : `Issue ${count(toIssue.length)} reports …`}
          </Button>
        </div>
      )}
      <ul className="grid grid-cols-[repeat(auto-fill,minmax(420px,1fr))] gap-x-3 empty:hidden">
        {shown.map((p) => (
          <PieceLine
            key={p.id}
            piece={p}
            chosen={ready.includes(p.id) ? chosen.has(p.id) : null}
            onChoose={(on) => setChosen((all) => withOr(all, p.id, on))}
          />
        ))}
      </ul>
      {pieces.hasNextPage && (
        <Button className="mt-3" disabled={pieces.isFetchingNextPage} onClick={() => void pieces.fetchNextPage()}>
          {pieces.isFetchingNextPage ? "Getting more …" : `Show more of ${count(total - shown.length)}`}
        </Button>
      )}
      {signing && (
        <IssueReports
          pieces={toIssue}
          what={toIssue.length === 1 ? "the report of one piece" : `the reports of ${toIssue.length} pieces`}
          onClose={() => setSigning(false)}
        />
      )}
    </section>
  );
}

/** Judged as its plan now says, and nothing under way. */
const isReady = (p: Schemas["PieceSummary"]) => p.state === "evaluated" && !p.work;

function withOr(all: ReadonlySet<string>, id: string, on: boolean): ReadonlySet<string> {
  const next = new Set(all);
  if (on) {
    next.add(id);
  } else {
    next.delete(id);
  }

  return next;
}
