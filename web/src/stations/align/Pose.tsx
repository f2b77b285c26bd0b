import type { Schemas } from "../../api/client";
import { count, fixed, percent } from "../../ui/format";
import { Facts } from "../../ui/parts";
import { Block } from "../../ui/Worksheet";
import { VerdictMark } from "../../ui/VerdictMark";

type Alignment = Schemas["AlignmentView"];
type Trial = Schemas["TrialView"];

/** How well a pose lies, what holds it, and how sure it is. */
export function Pose({ of: a }: { of: Alignment }) {
  return (
    <>
      <Facts
        rows={[
          ["RMS distance", `${fixed(a.rms, 4)} mm`],
          ["nominal covered", percent(a.coverage)],
          ["scan near the nominal", percent(a.inliers)],
          a.farthestU != null && ["U of the worst corner, k = 2", `${fixed(a.farthestU, 4)} mm`],
          a.decidedOn != null && ["told from like poses on", `${fixed(a.decidedOn, 1)} mm²`],
          ["points used", count(a.pointsUsed)],
          ["condition", fixed(a.condition, 4)],
        ]}
      />
      {a.condition < 1e-4 && (
        <p className="mt-1 text-brass">
          The shape hardly resists some motion (a turned part does not determine its rotation).
        </p>
      )}
      <Motions of={a.motions ?? []} />
      <Steps of={a.steps ?? []} />
    </>
  );
}

/** The six motions, and what holds each. */
function Motions({ of }: { of: Schemas["HeldMotion"][] }) {
  const free = of.filter((m) => m.by == null);
  return of.length === 0 ? null : (
    <table className="mt-2 w-full text-xs" data-testid="motions">
      <caption className="text-left text-soft">
        {free.length === 0
          ? "All six motions are held"
          : `${free.length} of six motions ${free.length === 1 ? "is" : "are"} free`}
      </caption>
      <tbody>
        {of.map((m) => (
          <tr key={m.motion} className="border-t border-line/60">
            <th scope="row" className="num w-20 py-0.5 text-left font-normal">
              {m.motion?.replace("-", " ")}
            </th>
            <td className={m.by == null ? "text-brass" : ""}>{m.by ?? "free: stays as it came"}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** What is left at each datum, reference point or pair. */
function Steps({ of }: { of: Schemas["AlignmentStep"][] }) {
  return of.length === 0 ? null : (
    <table className="mt-2 w-full text-xs" data-testid="steps">
      <caption className="text-left text-soft">Distance left</caption>
      <tbody>
        {of.map((s) => (
          <tr key={s.name} className="border-t border-line/60" title={s.says || undefined}>
            <th scope="row" className="py-0.5 text-left font-normal">
              {s.name}
            </th>
            <td className="num text-right">{fixed(s.residual, 4)} mm</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function verdictsSaid(t: Trial, judging: boolean): string {
  if (!t.alignment.resembles) {
    return "no verdict could be given.";
  }

  const many = t.verdicts.length;
  return judging
    ? "judging …"
    : many === 0
      ? "no verdict changes."
      : `${many} ${many === 1 ? "verdict changes" : "verdicts change"}:`;
}

/** Another way of aligning, as it would be. */
export function TrialPose({ of: t, judging }: { of: Trial; judging: boolean }) {
  return (
    <Block title="Tried, not carried out yet">
      <div data-testid="trial">
        {t.alignment.problem && <p className="mb-1 text-bad">{t.alignment.problem}</p>}
        {t.change && (
          <p className="mb-1">
            Moves the part by up to <span className="num">{fixed(t.change.moves, 4)} mm</span> and turns it by{" "}
            <span className="num">{fixed(t.change.turnsDegrees, 4)}°</span>; {verdictsSaid(t, judging)}
          </p>
        )}
        <ul className="mb-1 text-xs">
          {t.verdicts.map((v) => (
            <li key={v.no} className="flex items-center gap-1">
              <span className="num">{v.no}</span>
              <span className="flex-1 truncate">{v.name}</span>
              <VerdictMark verdict={v.before} /> → <VerdictMark verdict={v.after} />
            </li>
          ))}
        </ul>
        <Pose of={t.alignment} />
      </div>
    </Block>
  );
}
