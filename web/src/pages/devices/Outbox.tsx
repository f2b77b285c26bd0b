import { useQuery } from "@tanstack/react-query";
import { api, take } from "../../api/client";
import { useAction, useMay } from "../../api/hooks";
import { whereTo } from "../../plan/copies";
import { moment } from "../../ui/format";
import { Button, Columns } from "../../ui/parts";

const states = { queued: "waits", running: "goes out", done: "sent", failed: "not sent", cancelled: "stopped" };

/** What goes out of the reports: where to, what came of it, and another try. */
export function Outbox() {
  const mayWork = useMay("inspector");
  const { data } = useQuery({
    queryKey: ["outbox"],
    queryFn: () => take(api.GET("/api/outbox")),
    refetchInterval: 3000,
  });
  const again = useAction(
    (id: string) => take(api.POST("/api/outbox/{id}/again", { params: { path: { id } } })),
    [["outbox"]],
  );
  return (
    <section className="space-y-2" aria-label="Outbox">
      <h2 className="text-base font-semibold">Outbox</h2>
      <p className="text-soft">
        Copies of reports that a plan asks for on its station Issue. Letters go to the simulated outbox, a folder of
        .eml files, or to a mail server that the settings name.
      </p>
      {data && (
        <dl className="grid grid-cols-[auto_1fr] gap-x-3 rounded border border-line bg-panel px-2 py-1 text-xs">
          <dt className="text-soft">letters</dt>
          <dd className="num break-all">{data.mail}</dd>
          <dt className="text-soft">folders</dt>
          <dd className="num break-all">{data.folder}</dd>
        </dl>
      )}
      {data && data.recent.length > 0 && (
        <table className="w-full border-collapse border border-line bg-panel">
          <Columns names={["when (UTC)", "report", "where to", "state", ""]} />
          <tbody>
            {data.recent.map((d) => (
              <tr key={d.job.id} className="border-t border-line align-top">
                <td className="num px-3 py-1 whitespace-nowrap">{moment(d.job.createdAt)}</td>
                <td className="num px-3 py-1 whitespace-nowrap">{d.number}</td>
                <td className="px-3 py-1">{whereTo(d.copy)}</td>
                <td className={`px-3 py-1 ${d.job.state === "failed" ? "text-bad" : ""}`}>
                  {states[d.job.state]}
                  {d.job.error && <span className="block text-xs">{d.job.error}</span>}
                </td>
                <td className="px-3 py-1">
                  {d.job.state === "failed" && mayWork && (
                    <Button className="h-7 px-2" disabled={again.isPending} onClick={() => again.mutate(d.job.id)}>
                      Send again
                    </Button>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </section>
  );
}
