import { useQuery } from "@tanstack/react-query";
import { api, take } from "../api/client";
import { Button, Columns, Facts } from "../ui/parts";
import { Scroll } from "../ui/Scroll";

/** Whether this installation computes what is verified: every case that ships, run when it is asked for. */
export function CertificatePage() {
  const run = useQuery({
    queryKey: ["certificate"],
    queryFn: () => take(api.GET("/api/certificate")),
    enabled: false,
    staleTime: Infinity,
  });
  const made = run.data;
  const out = made?.cases.filter((c) => !c.passed).length ?? 0;
  return (
    <Scroll name="Certificate" className="h-full">
      <div className="mx-auto max-w-[1180px] space-y-4 p-6">
        <h1 className="text-xl font-semibold">Certificate of computation</h1>
        <p className="max-w-prose text-soft">
          Bostel ships points with results that were verified independently. Here they are computed by this
          installation, now, and held against the error that each case allows.
        </p>
        <div className="flex items-center gap-4">
          <Button tone="primary" disabled={run.isFetching} onClick={() => void run.refetch()}>
            {run.isFetching ? "Computing …" : made ? "Run again" : "Run every case"}
          </Button>
          {made && (
            <>
              <span role="status" className={out > 0 ? "font-semibold text-bad" : "font-semibold text-good"}>
                {out > 0 ? `${out} of ${made.cases.length} cases are out` : `All ${made.cases.length} cases are within`}
              </span>
              <a className="text-indigo underline" href="/api/certificate/file" download>
                Save as PDF
              </a>
            </>
          )}
        </div>
        {run.error && (
          <p role="alert" className="text-bad">
            {run.error.message}
          </p>
        )}
        {made && (
          <>
            <Facts
              rows={[
                ["run", `${made.at.slice(0, 19).replace("T", " ")} UTC`],
                ["version", made.version],
                ["runtime", made.runtime],
                ["system", `${made.system}, ${made.processors} processors`],
                ["SHA-256 of the computation", made.computationSha],
                ["SHA-256 of the cases", made.referenceSha],
              ]}
            />
            <table className="w-full border-collapse border border-line bg-panel">
              <Columns names={["case", "computed", "figures", "nearest to its limit", "off by", "allowed", ""]} />
              <tbody>
                {made.cases.map((c) => (
                  <tr key={c.id} className="border-t border-line align-top">
                    <td className="num px-3 py-1">{c.id}</td>
                    <td className="px-3 py-1">{c.failure ?? c.kind}</td>
                    <td className="num px-3 py-1">{c.figures}</td>
                    <td className="px-3 py-1">{c.key}</td>
                    <td className="num px-3 py-1">{c.error === null ? "differs" : c.error.toExponential(1)}</td>
                    <td className="num px-3 py-1">{c.allowed.toExponential(1)}</td>
                    <td className={`px-3 py-1 font-semibold ${c.passed ? "text-good" : "text-bad"}`}>
                      {c.passed ? "within" : "out"}
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          </>
        )}
      </div>
    </Scroll>
  );
}
