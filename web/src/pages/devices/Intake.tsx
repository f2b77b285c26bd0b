import { useQuery } from "@tanstack/react-query";
import { api, take } from "../../api/client";
import { moment } from "../../ui/format";
import { Columns } from "../../ui/parts";

/** The watched folder: where it is, and what came of the files last put there. */
export function Intake() {
  const { data } = useQuery({
    queryKey: ["intake"],
    queryFn: () => take(api.GET("/api/intake")),
    refetchInterval: 3000,
  });
  return (
    <section className="space-y-2" aria-label="Intake folder">
      <h2 className="text-base font-semibold">Intake folder</h2>
      <p className="text-soft">
        A scan put into this folder of the server is taken when it has stopped growing. Its name begins with the part
        number, the rest is the serial number, as in VH-310-0042.stl. What cannot be taken is moved to “aside” with the
        reason.
      </p>
      {data && <p className="num rounded border border-line bg-panel px-2 py-1 text-xs break-all">{data.folder}</p>}
      {data && data.recent.length > 0 && (
        <table className="w-full border-collapse border border-line bg-panel">
          <Columns names={["when (UTC)", "file", "what", "detail"]} />
          <tbody>
            {data.recent.map((a) => (
              <tr key={a.id} className="border-t border-line align-top">
                <td className="num px-3 py-1 whitespace-nowrap">{moment(a.at)}</td>
                <td className="num px-3 py-1">{a.subject}</td>
                <td className={`px-3 py-1 whitespace-nowrap ${a.action.includes("aside") ? "text-bad" : ""}`}>
                  {a.action}
                </td>
                <td className="px-3 py-1 text-xs text-soft">{a.detail}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </section>
  );
}
