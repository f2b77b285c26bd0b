import { Download } from "lucide-react";
import { useDeferredValue, useState } from "react";
import { useLog, type LogSearch } from "../api/hooks";
import { count } from "../ui/format";
import { Button, Columns, Field, Input, linkButton } from "../ui/parts";
import { Scroll } from "../ui/Scroll";

/** Who did what, newest first: searched by piece, report, person or word, and by days. */
export function LogPage() {
  const [search, setSearch] = useState<LogSearch>({ search: "", from: "", to: "" });
  const asked = useDeferredValue(search);
  const log = useLog(asked);
  const lines = log.data?.pages.flatMap((p) => p.lines) ?? [];
  const total = log.data?.pages[0]?.total ?? 0;
  const given = Object.entries(asked).filter(([, value]) => value !== "");
  return (
    <Scroll name="Log" className="h-full">
      <div className="mx-auto max-w-[1180px] space-y-4 p-6">
        <div className="flex flex-wrap items-end gap-3">
          <h1 className="mr-auto text-xl font-semibold">Log</h1>
          <div className="w-72">
            <Field label="Piece, report, person or word">
              <Input
                type="search"
                value={search.search}
                placeholder="BR-1002, inspector withdrew …"
                onChange={(e) => setSearch({ ...search, search: e.target.value })}
              />
            </Field>
          </div>
          {(["from", "to"] as const).map((end) => (
            <div key={end} className="w-36">
              <Field label={end === "from" ? "From day (UTC)" : "To day (UTC)"}>
                <Input
                  type="date"
                  value={search[end]}
                  onChange={(e) => setSearch({ ...search, [end]: e.target.value })}
                />
              </Field>
            </div>
          ))}
          <a className={linkButton} href={`/api/log/file?${new URLSearchParams(given).toString()}`}>
            <Download size={14} aria-hidden /> Save as CSV
          </a>
        </div>
        <p className="num text-soft" role="status">
          {log.isPending ? "Looking …" : found(total)}
        </p>
        {log.error && (
          <p className="text-bad" role="alert">
            {log.error.message}
          </p>
        )}
        {lines.length > 0 && (
          <table className="w-full border-collapse border border-line bg-panel">
            <Columns names={["when (UTC)", "who", "what", "on", "detail"]} />
            <tbody>
              {lines.map((a) => (
                <tr key={a.id} className="border-t border-line align-top">
                  <td className="num px-3 py-1 whitespace-nowrap">{a.at.slice(0, 19).replace("T", " ")}</td>
                  <td className="px-3 py-1">{a.who}</td>
                  <td className="px-3 py-1">{a.action}</td>
                  <td className="px-3 py-1">{a.subject}</td>
                  <td className="num max-w-[480px] truncate px-3 py-1 text-xs text-soft" title={a.detail}>
                    {a.detail}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        )}
        {log.hasNextPage && (
          <Button disabled={log.isFetchingNextPage} onClick={() => void log.fetchNextPage()}>
            {`Show more of ${count(total - lines.length)}`}
          </Button>
        )}
      </div>
    </Scroll>
  );
}

function found(lines: number) {
  if (lines === 0) {
    return "Nothing was found.";
  }

  return lines === 1 ? "1 line" : `${count(lines)} lines`;
}
