import { useLog } from "../api/hooks";
import { Columns } from "../ui/parts";

/** Who did what, newest first. */
export function LogPage() {
  const log = useLog();
  return (
    <div className="h-full overflow-auto" tabIndex={0}>
      <div className="mx-auto max-w-[1180px] space-y-4 p-6">
        <h1 className="text-xl font-semibold">Log</h1>
        <table className="w-full border-collapse border border-line bg-panel">
          <Columns names={["when (UTC)", "who", "what", "on", "detail"]} />
          <tbody>
            {log.data?.map((a) => (
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
      </div>
    </div>
  );
}
