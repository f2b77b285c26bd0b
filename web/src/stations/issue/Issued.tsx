import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { Files } from "../../register/Files";
import { stateOf } from "../../register/states";
import { moment } from "../../ui/format";
import { Block } from "../../ui/Worksheet";

/** The reports of a piece: where each stands, and its files. */
export function Issued({ reports }: { reports: readonly Schemas["ReportView"][] }) {
  return (
    <Block title="Issued">
      <ul>
        {reports.map((r) => (
          <li key={r.id} className="border-t border-line/60 py-1" data-testid="issued">
            <div className="flex justify-between">
              <Link className="num font-semibold text-indigo underline" to={`/reports/${r.number}`}>
                {r.number}
              </Link>
              <span className="text-soft">
                {moment(r.issuedAt)}, {r.issuedBy}
              </span>
            </div>
            <p className={r.holds ? "text-soft" : "text-bad"}>{stateOf(r).says || "Issued, and it holds."}</p>
            <div className="text-xs">
              <Files report={r} />
            </div>
          </li>
        ))}
      </ul>
    </Block>
  );
}
